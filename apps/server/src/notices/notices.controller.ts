import { Controller } from '@nestjs/common';
import type { NoticesAnswer, NoticeSetting, NoticeSettingAnswer } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { NoticesService } from './notices.service.js';
import { WaysService } from './ways.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class NoticesController {
  constructor(
    private readonly notices: NoticesService,
    private readonly told: WaysService,
  ) {}

  @Serve('GET /api/notices')
  list(@Caller() person: Person): Promise<NoticesAnswer> {
    return this.notices.list(person);
  }

  @Serve('POST /api/notices/read')
  readAll(@Caller() person: Person): Promise<void> {
    return this.notices.readAll(person);
  }

  @Serve('GET /api/notices/ways')
  ways(@Caller() person: Person): Promise<NoticeSettingAnswer> {
    return this.told.of(person);
  }

  @Serve('PUT /api/notices/ways')
  setWays(@Input() setting: NoticeSetting, @Caller() person: Person): Promise<NoticeSettingAnswer> {
    return this.told.set(setting, person);
  }

  @Serve('POST /api/watch')
  watch(
    @Input()
    { item, place, watch }: { item?: string; place?: string; watch: boolean },
    @Caller() person: Person,
  ): Promise<void> {
    return place === undefined
      ? this.notices.watch(item ?? '', watch, person)
      : this.notices.watchPlace(place, watch, person);
  }
}
