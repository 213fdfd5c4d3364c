import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { StoreModule } from '../store/store.module.js';
import { BelongingService } from './belonging.service.js';
import { HistoryService } from './history.service.js';
import { ItemViewService } from './item-view.service.js';
import { ItemsController } from './items.controller.js';

/** One item as it is shown. */
@Module({
  imports: [AccessModule, StoreModule],
  controllers: [ItemsController],
  providers: [ItemViewService, BelongingService, HistoryService],
})
export class ItemsModule {}
