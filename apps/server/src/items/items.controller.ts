import { Controller, Get, Query } from '@nestjs/common';
import type { FindAnswer, ItemView } from '@stem-trace/contract';
import { findSchema, itemSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { CatalogueService, type FindRequest } from './catalogue.service.js';

@Controller('api')
export class ItemsController {
  constructor(private readonly catalogue: CatalogueService) {}

  @Get('items')
  find(@Query(new Validate(findSchema)) request: FindRequest): Promise<FindAnswer> {
    return this.catalogue.find(request);
  }

  @Get('item')
  view(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<ItemView> {
    return this.catalogue.view(item, person.id);
  }
}
