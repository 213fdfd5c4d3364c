import { Body, Controller, Get, HttpCode, Post, Put } from '@nestjs/common';
import type {
  CustodyAnswer,
  EditPropertiesRequest,
  NumberSchemeRow,
  PropertiesAnswer,
  ReserveRequest,
  SetClassRequest,
  SetDefinitionRequest,
  SetSchemeRequest,
} from '@stem-trace/contract';
import {
  editPropertiesSchema,
  reserveSchema,
  setClassSchema,
  setDefinitionSchema,
  setSchemeSchema,
} from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { Validate } from '../problems/validate.js';
import { DefinitionsService } from './definitions.service.js';
import { NumbersService } from './numbers.service.js';
import { PropertiesService } from './properties.service.js';

@Controller('api')
export class PropertiesController {
  constructor(
    private readonly definitions: DefinitionsService,
    private readonly properties: PropertiesService,
    private readonly numbers: NumbersService,
    private readonly rights: RightsService,
  ) {}

  @Get('properties')
  list(): Promise<PropertiesAnswer> {
    return this.definitions.list();
  }

  @Put('properties/definition')
  setDefinition(
    @Body(new Validate(setDefinitionSchema)) request: SetDefinitionRequest,
    @Caller() by: Person,
  ): Promise<PropertiesAnswer> {
    return this.definitions.setDefinition(request, by);
  }

  @Put('properties/class')
  setClass(
    @Body(new Validate(setClassSchema)) request: SetClassRequest,
    @Caller() by: Person,
  ): Promise<PropertiesAnswer> {
    return this.definitions.setClass(request, by);
  }

  @Post('items/properties')
  @HttpCode(200)
  edit(
    @Body(new Validate(editPropertiesSchema)) request: EditPropertiesRequest,
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.properties.edit(request, person);
  }

  @Get('numbers')
  listSchemes(): Promise<NumberSchemeRow[]> {
    return this.numbers.list();
  }

  @Put('numbers')
  setScheme(
    @Body(new Validate(setSchemeSchema)) scheme: SetSchemeRequest,
    @Caller() by: Person,
  ): Promise<NumberSchemeRow[]> {
    return this.numbers.set(scheme, by);
  }

  /** Numbers that are the caller's from now on. */
  @Post('numbers/reserve')
  @HttpCode(200)
  async reserve(
    @Body(new Validate(reserveSchema)) request: ReserveRequest,
    @Caller() person: Person,
  ): Promise<{ numbers: string[] }> {
    if (!(await this.rights.of(person)).mayAnywhere('change'))
      throw new ProblemError(
        'NOT_ALLOWED',
        'You may change nothing in the store, so no number was reserved for you.',
      );
    return { numbers: await this.numbers.reserve(request) };
  }
}
