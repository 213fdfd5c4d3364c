import { Controller, Get, Query } from '@nestjs/common';
import type { StructureAnswer } from '@stem-trace/contract';
import { structureSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { StructureService, type StructureRequest } from './structure.service.js';

@Controller('api')
export class StructureController {
  constructor(private readonly structure: StructureService) {}

  @Get('made')
  made(
    @Query(new Validate(structureSchema)) request: StructureRequest,
    @Caller() person: Person,
  ): Promise<StructureAnswer> {
    return this.structure.made(request, person);
  }

  @Get('used')
  used(
    @Query(new Validate(structureSchema)) request: StructureRequest,
    @Caller() person: Person,
  ): Promise<StructureAnswer> {
    return this.structure.used(request, person);
  }
}
