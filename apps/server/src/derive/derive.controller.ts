import { Body, Controller, HttpCode, Post } from '@nestjs/common';
import type { DerivePreview, DeriveRequest, DeriveResult } from '@stem-trace/contract';
import { deriveSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { DeriveService } from './derive.service.js';

@Controller('api/derive')
export class DeriveController {
  constructor(private readonly derivations: DeriveService) {}

  /** Works out a derivation without writing anything. */
  @Post('preview')
  @HttpCode(200)
  preview(
    @Body(new Validate(deriveSchema)) request: DeriveRequest,
    @Caller() person: Person,
  ): Promise<DerivePreview> {
    return this.derivations.preview(request, person);
  }

  @Post()
  carryOut(
    @Body(new Validate(deriveSchema)) request: DeriveRequest,
    @Caller() person: Person,
  ): Promise<DeriveResult> {
    return this.derivations.carryOut(request, person);
  }
}
