import { Controller } from '@nestjs/common';
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
import { Caller } from '../serve/access.guard.js';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { DefinitionsService } from './definitions.service.js';
import { NumbersService } from './numbers.service.js';
import { PropertiesService } from './properties.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class PropertiesController {
  constructor(
    private readonly definitions: DefinitionsService,
    private readonly properties: PropertiesService,
    private readonly numbers: NumbersService,
    private readonly rights: RightsService,
  ) {}

  @Serve('GET /api/properties')
  list(): Promise<PropertiesAnswer> {
    return this.definitions.list();
  }

  @Serve('PUT /api/properties/definition')
  setDefinition(@Input() request: SetDefinitionRequest, @Caller() by: Person): Promise<PropertiesAnswer> {
    return this.definitions.setDefinition(request, by);
  }

  @Serve('PUT /api/properties/class')
  setClass(@Input() request: SetClassRequest, @Caller() by: Person): Promise<PropertiesAnswer> {
    return this.definitions.setClass(request, by);
  }

  @Serve('POST /api/items/properties')
  edit(@Input() request: EditPropertiesRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.properties.edit(request, person);
  }

  @Serve('GET /api/numbers')
  listSchemes(): Promise<NumberSchemeRow[]> {
    return this.numbers.list();
  }

  @Serve('PUT /api/numbers')
  setScheme(@Input() scheme: SetSchemeRequest, @Caller() by: Person): Promise<NumberSchemeRow[]> {
    return this.numbers.set(scheme, by);
  }

  /** Numbers that are the caller's from now on. */
  @Serve('POST /api/numbers/reserve')
  async reserve(@Input() request: ReserveRequest, @Caller() person: Person): Promise<{ numbers: string[] }> {
    if (!(await this.rights.of(person)).mayAnywhere('change'))
      throw new ProblemError(
        'NOT_ALLOWED',
        'You may change nothing in the store, so no number was reserved for you.',
      );
    return { numbers: await this.numbers.reserve(request) };
  }
}
