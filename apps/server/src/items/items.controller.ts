import { Body, Controller, Get, HttpCode, Post, Query } from '@nestjs/common';
import type { CustodyAnswer, ItemView } from '@stem-trace/contract';
import { belongSchema, itemSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { BelongingService } from './belonging.service.js';
import { ItemViewService } from './item-view.service.js';

@Controller('api')
export class ItemsController {
  constructor(
    private readonly views: ItemViewService,
    private readonly belonging: BelongingService,
  ) {}

  @Post('items/belong')
  @HttpCode(200)
  belong(
    @Body(new Validate(belongSchema)) { item, model }: { item: string; model: string },
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.belonging.set(item, model, person);
  }

  @Get('item')
  view(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<ItemView> {
    return this.views.view(item, person);
  }
}
