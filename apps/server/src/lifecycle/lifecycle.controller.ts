import { Controller } from '@nestjs/common';
import type {
  AlignAnswer,
  AlignRequest,
  CheckRow,
  CustodyAnswer,
  StepPreview,
  StepRequest,
} from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { AlignService } from './align.service.js';
import { LifecycleService } from './lifecycle.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class LifecycleController {
  constructor(
    private readonly lifecycle: LifecycleService,
    private readonly aligning: AlignService,
  ) {}

  @Serve('POST /api/steps')
  take(@Input() request: StepRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.lifecycle.take(request, person);
  }

  @Serve('POST /api/steps/preview')
  preview(@Input() request: StepRequest, @Caller() person: Person): Promise<StepPreview> {
    return this.lifecycle.preview(request, person);
  }

  @Serve('GET /api/checks')
  waiting(@Caller() person: Person): Promise<CheckRow[]> {
    return this.lifecycle.waitingFor(person);
  }

  @Serve('POST /api/align/preview')
  previewAlign(@Input() request: AlignRequest, @Caller() person: Person): Promise<AlignAnswer> {
    return this.aligning.preview(request, person);
  }

  @Serve('POST /api/align')
  align(@Input() request: AlignRequest, @Caller() person: Person): Promise<AlignAnswer> {
    return this.aligning.carryOut(request, person);
  }
}
