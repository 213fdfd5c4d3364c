import { Body, Controller, HttpCode, Post } from '@nestjs/common';
import type { CustodyAnswer, StepRequest } from '@stem-trace/contract';
import { stepSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { LifecycleService } from './lifecycle.service.js';

@Controller('api/steps')
export class LifecycleController {
  constructor(private readonly lifecycle: LifecycleService) {}

  @Post()
  @HttpCode(200)
  take(
    @Body(new Validate(stepSchema)) request: StepRequest,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.lifecycle.take(request, person);
  }
}
