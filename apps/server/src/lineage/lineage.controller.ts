import { Controller } from '@nestjs/common';
import type { LensText } from '@stem-trace/contract';
import type { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { Input, Serve } from '../serve/serve.js';
import { WorkHost } from '../work/work-host.js';

interface Asked {
  readonly item: string;
  readonly lens: LensText;
}

@Controller()
export class LineageController {
  constructor(private readonly work: WorkHost) {}

  @Serve('GET /api/stem')
  stem(@Input() asked: Asked, @Caller() person: Person, @Asker() asker: AbortSignal): Promise<JsonBytes> {
    return this.work.json('stem', asked, person, asker);
  }

  @Serve('GET /api/family')
  family(@Input() asked: Asked, @Caller() person: Person, @Asker() asker: AbortSignal): Promise<JsonBytes> {
    return this.work.json('family', asked, person, asker);
  }
}
