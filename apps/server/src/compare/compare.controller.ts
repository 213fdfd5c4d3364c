import { Controller, Get, Query } from '@nestjs/common';
import type { CompareAnswer } from '@stem-trace/contract';
import { compareSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { CompareService, type CompareRequest } from './compare.service.js';

@Controller('api')
export class CompareController {
  constructor(private readonly service: CompareService) {}

  @Get('compare')
  compare(
    @Query(new Validate(compareSchema)) request: CompareRequest,
    @Caller() person: Person,
  ): Promise<CompareAnswer> {
    return this.service.compare(request, person);
  }
}
