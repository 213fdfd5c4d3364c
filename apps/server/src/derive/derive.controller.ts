import { Controller } from '@nestjs/common';
import type { DeriveRequest } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class DeriveController {
  constructor(private readonly work: WorkHost) {}

  /** Works out a derivation without writing anything. */
  @Serve('POST /api/derive/preview')
  preview(
    @Input() request: DeriveRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('derive preview', request, person, asker);
  }

  @Serve('POST /api/derive')
  carryOut(@Input() request: DeriveRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('derive', { ...request, at: new Date() }, person);
  }

  /** Reads the files of a variant back, as often as somebody asks. */
  @Serve('GET /api/derive/proof')
  proof(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('proof', request, person, asker);
  }
}
