import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { StoreModule } from '../store/store.module.js';
import { DefinitionsService } from './definitions.service.js';
import { NumbersService } from './numbers.service.js';
import { PropertiesController } from './properties.controller.js';
import { PropertiesService } from './properties.service.js';

/** Values of versions, and what they mean. */
@Module({
  imports: [AccessModule, StoreModule],
  controllers: [PropertiesController],
  providers: [DefinitionsService, PropertiesService, NumbersService],
  exports: [DefinitionsService, NumbersService],
})
export class PropertiesModule {}
