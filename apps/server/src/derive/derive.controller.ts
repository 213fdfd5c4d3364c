import { Body, Controller, Get, HttpCode, Post, Query } from '@nestjs/common';
import type { DerivePreview, DeriveRequest, DeriveResult } from '@stem-trace/contract';
import { deriveSchema, itemSchema } from '@stem-trace/contract/schemas';
import type { Proof } from '@stem-trace/core';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { DeriveService } from './derive.service.js';
import { ProofService } from './proof.service.js';

@Controller('api/derive')
export class DeriveController {
  constructor(
    private readonly derivations: DeriveService,
    private readonly proofs: ProofService,
  ) {}

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

  /** Reads the files of a variant back, as often as somebody asks. */
  @Get('proof')
  proof(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<Proof> {
    return this.proofs.prove(item, person);
  }
}
