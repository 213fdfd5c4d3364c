import { Controller, Res, StreamableFile } from '@nestjs/common';
import type { FetchPlanAnswer } from '@stem-trace/contract';
import type { Response } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { FetchService, type FetchRequest } from './fetch.service.js';
import { sendFile } from '../serve/send-file.js';
import { Input, Serve } from '../serve/serve.js';
import { WorkHost } from '../work/work-host.js';
import type { JoinRequest } from './join.service.js';

@Controller()
export class FetchController {
  constructor(
    private readonly fetches: FetchService,
    private readonly work: WorkHost,
  ) {}

  @Serve('GET /api/fetch/plan')
  plan(@Input() request: FetchRequest, @Caller() person: Person): Promise<FetchPlanAnswer> {
    return this.fetches.plan(request, person);
  }

  @Serve('GET /api/fetch/joined')
  async joined(
    @Input() request: JoinRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('fetch joined', request, person));
  }

  @Serve('GET /api/fetch')
  async fetch(
    @Input() request: FetchRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    const { name, content } = await this.fetches.zip(request, person);
    // RFC 6266 with RFC 8187: the plain name for old programs, the encoded one for all others.
    const plain = name.replace(/[^ -~]|["\\/]/g, '_');
    response.setHeader(
      'Content-Disposition',
      `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name.replaceAll('/', '-'))}`,
    );
    return new StreamableFile(content, { type: 'application/zip' });
  }
}
