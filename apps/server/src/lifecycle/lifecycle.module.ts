import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { PropertiesModule } from '../properties/properties.module.js';
import { StoreModule } from '../store/store.module.js';
import { AlignService } from './align.service.js';
import { LifecycleController } from './lifecycle.controller.js';
import { LifecycleService } from './lifecycle.service.js';

/** Steps from draft to released and beyond. */
@Module({
  imports: [AccessModule, PropertiesModule, StoreModule],
  controllers: [LifecycleController],
  providers: [LifecycleService, AlignService],
})
export class LifecycleModule {}
