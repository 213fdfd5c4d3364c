import { Body, Controller, Get, HttpCode, Post, Put, Query } from '@nestjs/common';
import type {
  BinRow,
  MoveItemsRequest,
  PlaceAccessRequest,
  PlaceAccessView,
  PlaceRow,
  RenameItemRequest,
} from '@stem-trace/contract';
import {
  createPlaceSchema,
  moveItemsSchema,
  placeAccessSchema,
  placeSchema,
  movePlaceSchema,
  renameItemSchema,
} from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { BinService } from './bin.service.js';
import { PlaceAccessService } from './place-access.service.js';
import { PlacesService } from './places.service.js';

@Controller('api')
export class PlacesController {
  constructor(
    private readonly places: PlacesService,
    private readonly access: PlaceAccessService,
    private readonly bin: BinService,
  ) {}

  @Get('places')
  list(@Caller() person: Person): Promise<PlaceRow[]> {
    return this.places.list(person);
  }

  @Post('places')
  @HttpCode(204)
  create(
    @Body(new Validate(createPlaceSchema)) { path }: { path: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.places.create(path, person);
  }

  @Post('places/move')
  @HttpCode(204)
  move(
    @Body(new Validate(movePlaceSchema)) { from, to }: { from: string; to: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.places.move(from, to, person);
  }

  @Get('places/access')
  viewAccess(
    @Query(new Validate(placeSchema)) { place }: { place: string },
    @Caller() person: Person,
  ): Promise<PlaceAccessView> {
    return this.access.view(place, person);
  }

  @Put('places/access')
  changeAccess(
    @Body(new Validate(placeAccessSchema)) request: PlaceAccessRequest,
    @Caller() person: Person,
  ): Promise<PlaceAccessView> {
    return this.access.change(request, person);
  }

  @Get('places/bin')
  listBin(@Caller() person: Person): Promise<BinRow[]> {
    return this.bin.list(person);
  }

  @Post('places/bin')
  @HttpCode(204)
  putIntoBin(
    @Body(new Validate(placeSchema)) { place }: { place: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.bin.put(place, person);
  }

  @Post('places/restore')
  @HttpCode(204)
  restore(
    @Body(new Validate(placeSchema)) { place }: { place: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.bin.restore(place, person);
  }

  @Post('items/move')
  @HttpCode(204)
  moveItems(
    @Body(new Validate(moveItemsSchema)) request: MoveItemsRequest,
    @Caller() person: Person,
  ): Promise<void> {
    return this.places.moveItems(request, person);
  }

  @Post('items/rename')
  @HttpCode(204)
  rename(
    @Body(new Validate(renameItemSchema)) request: RenameItemRequest,
    @Caller() person: Person,
  ): Promise<void> {
    return this.places.rename(request, person);
  }
}
