import { Body, Controller, Get, HttpCode, Param, Patch, Post, Put, Query, Req } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  IntakeRequest,
  IntakeSheetRow,
  IntakeView,
} from '@stem-trace/contract';
import {
  archiveSchema,
  carryOutSchema,
  correctionSchema,
  intakeSchema,
  uploadSchema,
} from '@stem-trace/contract/schemas';
import type { Request } from 'express';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { IntakeService } from './intake.service.js';

@Controller('api/intakes')
export class IntakeController {
  constructor(private readonly intakes: IntakeService) {}

  @Post()
  create(
    @Body(new Validate(intakeSchema)) body: IntakeRequest,
    @Caller() person: Person,
  ): Promise<IntakeView> {
    return this.intakes.create(body, person);
  }

  @Get()
  list(@Caller() person: Person): Promise<IntakeSheetRow[]> {
    return this.intakes.list(person);
  }

  /** The body is a ZIP: a folder of files, or a working copy that comes back. */
  @Post('archive')
  @HttpCode(202)
  createFromArchive(
    @Query(new Validate(archiveSchema)) request: { place: string; prefix: string },
    @Req() body: Request,
    @Caller() person: Person,
  ): Promise<IntakeView> {
    return this.intakes.createFromArchive(request, body, person);
  }

  @Post(':id/cancel')
  @HttpCode(200)
  cancel(@Param('id') id: string, @Caller() person: Person): Promise<IntakeView> {
    return this.intakes.cancel(id, person);
  }

  /** The body is the file itself. */
  @Put(':id/files')
  @HttpCode(204)
  addFile(
    @Param('id') id: string,
    @Query(new Validate(uploadSchema)) { path }: { path: string },
    @Req() request: Request,
    @Caller() person: Person,
  ): Promise<void> {
    return this.intakes.addFile(id, path, request, person);
  }

  @Get(':id')
  view(@Param('id') id: string, @Caller() person: Person): Promise<IntakeView> {
    return this.intakes.view(id, person);
  }

  @Patch(':id')
  correct(
    @Param('id') id: string,
    @Body(new Validate(correctionSchema)) body: CorrectionRequest,
    @Caller() person: Person,
  ): Promise<IntakeView> {
    return this.intakes.correct(id, body, person);
  }

  @Post(':id/carry-out')
  @HttpCode(202)
  carryOut(
    @Param('id') id: string,
    @Body(new Validate(carryOutSchema)) request: CarryOutRequest,
    @Caller() person: Person,
  ): Promise<IntakeView> {
    return this.intakes.carryOut(id, request, person);
  }
}
