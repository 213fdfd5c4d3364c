import { Module } from '@nestjs/common';
import { WorkModule } from '../work/work.module.js';
import { LineageController } from './lineage.controller.js';

/** Stems: what was derived from what, and how far it has gone its own way since. */
@Module({
  imports: [WorkModule],
  controllers: [LineageController],
})
export class LineageModule {}
