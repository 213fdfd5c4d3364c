import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { StoreModule } from '../store/store.module.js';
import { CustodyController } from './custody.controller.js';
import { CustodyService } from './custody.service.js';
import { HoldRequestsService } from './hold-requests.service.js';

/** Who works on what. */
@Module({
  imports: [AccessModule, StoreModule],
  controllers: [CustodyController],
  providers: [CustodyService, HoldRequestsService],
})
export class CustodyModule {}
