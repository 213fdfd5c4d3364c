import { Controller } from '@nestjs/common';
import type { VerifyAnswer } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { VerifyService } from './verify.service.js';
import { Serve } from '../serve/serve.js';

@Controller()
export class VerifyController {
  constructor(private readonly verifier: VerifyService) {}

  @Serve('GET /api/verify')
  verify(@Caller() person: Person): Promise<VerifyAnswer> {
    if (person.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may verify the store.');
    return this.verifier.verify();
  }
}
