import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { StoreModule } from '../store/store.module.js';
import { BinService } from './bin.service.js';
import { PlaceAccessService } from './place-access.service.js';
import { PlacesController } from './places.controller.js';
import { PlacesService } from './places.service.js';

/** Where things lie, and who may do what there. */
@Module({
  imports: [AccessModule, StoreModule],
  controllers: [PlacesController],
  providers: [PlacesService, PlaceAccessService, BinService],
})
export class PlacesModule {}
