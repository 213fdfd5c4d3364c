import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { sendFile } from '../serve/send-file.js';
import type { CompareFileRequest } from './compare-file.service.js';
import type { CompareRequest, CompareThreeRequest } from './compare.service.js';
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

  @Serve('GET /api/compare/file')
  async file(
    @Input() request: CompareFileRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('compare file', request, person));
  }

  @Serve('GET /api/compare/three')
  three(
    @Input() request: CompareThreeRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('compare three', request, person, asker);
  }
}
