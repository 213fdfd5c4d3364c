import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { QueueModule } from '../queue/queue.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { DeriveController } from './derive.controller.js';
import { DraftsService } from './drafts.service.js';
import { ProofsService } from './proofs.service.js';

/** Variants, and the proof that they hold together. */
@Module({
  imports: [AccessModule, QueueModule, StoreModule, WorkModule],
  controllers: [DeriveController],
  providers: [DraftsService, ProofsService],
})
export class DeriveModule {}
