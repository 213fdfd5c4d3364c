import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import type { CheckOutRequest, CustodyAnswer, HoldRow } from '@stem-trace/contract';
import { breakHoldSchema, bringBackSchema, checkOutSchema, itemsSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { CustodyService } from './custody.service.js';

interface Items {
  readonly items: readonly string[];
}

@Controller('api')
export class CustodyController {
  constructor(private readonly custody: CustodyService) {}

  @Get('holds')
  mine(@Caller() person: Person): Promise<HoldRow[]> {
    return this.custody.mine(person);
  }

  @Post('holds')
  @HttpCode(200)
  checkOut(
    @Body(new Validate(checkOutSchema)) { items, reason }: CheckOutRequest,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.custody.checkOut(items, reason, person);
  }

  @Post('holds/let-go')
  @HttpCode(200)
  letGo(@Body(new Validate(itemsSchema)) { items }: Items, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.custody.letGo(items, person);
  }

  @Post('holds/break')
  @HttpCode(204)
  breakHold(
    @Body(new Validate(breakHoldSchema)) { item, reason }: { item: string; reason: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.custody.breakHold(item, reason, person);
  }

  @Post('revise')
  @HttpCode(200)
  revise(
    @Body(new Validate(itemsSchema)) { items }: Items,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.custody.revise(items, person);
  }

  @Post('catch-up')
  @HttpCode(200)
  catchUp(
    @Body(new Validate(itemsSchema)) { items }: Items,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.custody.catchUp(items, person);
  }

  @Post('bring-back')
  @HttpCode(200)
  bringBack(
    @Body(new Validate(bringBackSchema)) { item, comment }: { item: string; comment: string },
    @Caller() person: Person,
  ): Promise<{ number: string; version: string }> {
    return this.custody.bringBack(item, comment, person);
  }
}
