import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import type { NoticesAnswer } from '@stem-trace/contract';
import { watchSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { NoticesService } from './notices.service.js';

@Controller('api')
export class NoticesController {
  constructor(private readonly notices: NoticesService) {}

  @Get('notices')
  list(@Caller() person: Person): Promise<NoticesAnswer> {
    return this.notices.list(person);
  }

  @Post('notices/read')
  @HttpCode(204)
  readAll(@Caller() person: Person): Promise<void> {
    return this.notices.readAll(person);
  }

  @Post('watch')
  @HttpCode(204)
  watch(
    @Body(new Validate(watchSchema))
    { item, place, watch }: { item?: string; place?: string; watch: boolean },
    @Caller() person: Person,
  ): Promise<void> {
    return place === undefined
      ? this.notices.watch(item ?? '', watch, person)
      : this.notices.watchPlace(place, watch, person);
  }
}
