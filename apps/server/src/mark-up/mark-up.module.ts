import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { MarkUpController } from './mark-up.controller.js';
import { MarkUpService } from './mark-up.service.js';

/** What people draw and write on versions. */
@Module({
  imports: [AccessModule, StoreModule, WorkModule],
  controllers: [MarkUpController],
  providers: [MarkUpService],
})
export class MarkUpModule {}
