import { Body, Controller, Get, Patch, Post } from '@nestjs/common';
import type { NewPerson, PersonChange, PersonRow } from '@stem-trace/contract';
import { newPersonSchema, personChangeSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { PeopleService } from './people.service.js';

@Controller('api/people')
export class PeopleController {
  constructor(private readonly people: PeopleService) {}

  @Get()
  list(): Promise<PersonRow[]> {
    return this.people.list();
  }

  @Post()
  create(@Body(new Validate(newPersonSchema)) person: NewPerson, @Caller() by: Person): Promise<PersonRow> {
    return this.people.create(person, by);
  }

  @Patch()
  change(
    @Body(new Validate(personChangeSchema)) change: PersonChange,
    @Caller() by: Person,
  ): Promise<PersonRow> {
    return this.people.change(change, by);
  }
}
