import { Body, Controller, HttpCode, Post } from '@nestjs/common';
import type { AlignAnswer, AlignRequest, CustodyAnswer, StepRequest } from '@stem-trace/contract';
import { alignSchema, stepSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { AlignService } from './align.service.js';
import { LifecycleService } from './lifecycle.service.js';

@Controller('api')
export class LifecycleController {
  constructor(
    private readonly lifecycle: LifecycleService,
    private readonly aligning: AlignService,
  ) {}

  @Post('steps')
  @HttpCode(200)
  take(
    @Body(new Validate(stepSchema)) request: StepRequest,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.lifecycle.take(request, person);
  }

  @Post('align/preview')
  @HttpCode(200)
  previewAlign(
    @Body(new Validate(alignSchema)) request: AlignRequest,
    @Caller() person: Person,
  ): Promise<AlignAnswer> {
    return this.aligning.preview(request, person);
  }

  @Post('align')
  @HttpCode(200)
  align(
    @Body(new Validate(alignSchema)) request: AlignRequest,
    @Caller() person: Person,
  ): Promise<AlignAnswer> {
    return this.aligning.carryOut(request, person);
  }
}
