import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import type {
  ChangeMarkRequest,
  MarkMade,
  MarkUpAnswer,
  NewMarkRequest,
  PrintRequest,
  RemarkRequest,
  SettleMarkRequest,
} from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Input, Serve } from '../serve/serve.js';
import { sendFile } from '../serve/send-file.js';
import { WorkHost } from '../work/work-host.js';
import { MarkUpService } from './mark-up.service.js';

@Controller()
export class MarkUpController {
  constructor(
    private readonly marks: MarkUpService,
    private readonly work: WorkHost,
  ) {}

  @Serve('GET /api/print')
  async print(
    @Input() request: PrintRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('print', request, person));
  }

  @Serve('GET /api/mark-up')
  list(@Input() { item }: { item: string }, @Caller() person: Person): Promise<MarkUpAnswer> {
    return this.marks.list(item, person);
  }

  @Serve('POST /api/mark-up')
  add(@Input() request: NewMarkRequest, @Caller() person: Person): Promise<MarkMade> {
    return this.marks.add(request, person);
  }

  @Serve('POST /api/mark-up/change')
  change(@Input() request: ChangeMarkRequest, @Caller() person: Person): Promise<void> {
    return this.marks.change(request, person);
  }

  @Serve('POST /api/mark-up/remark')
  remark(@Input() request: RemarkRequest, @Caller() person: Person): Promise<void> {
    return this.marks.remark(request, person);
  }

  @Serve('POST /api/mark-up/settle')
  settle(@Input() request: SettleMarkRequest, @Caller() person: Person): Promise<void> {
    return this.marks.settle(request, person);
  }

  @Serve('POST /api/mark-up/remove')
  remove(@Input() { id }: { id: string }, @Caller() person: Person): Promise<void> {
    return this.marks.remove(id, person);
  }
}
