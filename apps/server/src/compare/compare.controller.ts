import { Controller, Get, Query } from '@nestjs/common';
import type { CompareAnswer } from '@stem-trace/contract';
import { compareSchema } from '@stem-trace/contract/schemas';
import { Validate } from '../problems/validate.js';
import { CompareService, type CompareRequest } from './compare.service.js';

@Controller('api')
export class CompareController {
  constructor(private readonly service: CompareService) {}

  @Get('compare')
  compare(@Query(new Validate(compareSchema)) request: CompareRequest): Promise<CompareAnswer> {
    return this.service.compare(request);
  }
}
