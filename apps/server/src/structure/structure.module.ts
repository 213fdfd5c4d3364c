import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { LinkIndexModule } from '../link-index/link-index.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { BaselinesService } from './baselines.service.js';
import { EffectService } from './effect.service.js';
import { StructureIndex } from './structure-index.js';
import { StructureLoader } from './structure-loader.js';
import { StructureController } from './structure.controller.js';
import { StructureService } from './structure.service.js';

/** What things are made of and used in. */
@Module({
  imports: [AccessModule, StoreModule, LinkIndexModule, WorkModule],
  controllers: [StructureController],
  providers: [StructureLoader, StructureIndex, StructureService, EffectService, BaselinesService],
  exports: [StructureLoader, StructureIndex],
})
export class StructureModule {}
