import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import type { MoveItemsRequest, PlaceRow, RenameItemRequest } from '@stem-trace/contract';
import {
  createPlaceSchema,
  moveItemsSchema,
  movePlaceSchema,
  renameItemSchema,
} from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { PlacesService } from './places.service.js';

@Controller('api')
export class PlacesController {
  constructor(private readonly places: PlacesService) {}

  @Get('places')
  list(): Promise<PlaceRow[]> {
    return this.places.list();
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
