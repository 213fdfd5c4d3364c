import { Controller } from '@nestjs/common';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import type { CompareRequest } from './compare.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class CompareController {
  constructor(private readonly work: WorkHost) {}

  @Serve('GET /api/compare')
  compare(
    @Input() request: CompareRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('compare', request, person, asker);
  }
}
