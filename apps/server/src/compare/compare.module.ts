import { Module } from '@nestjs/common';
import { WorkModule } from '../work/work.module.js';
import { CompareController } from './compare.controller.js';

/** What differs between two structures. */
@Module({
  imports: [WorkModule],
  controllers: [CompareController],
})
export class CompareModule {}
