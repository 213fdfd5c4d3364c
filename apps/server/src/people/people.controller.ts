import { Controller } from '@nestjs/common';
import type { NewPerson, PersonChange, PersonRow } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { PeopleService } from './people.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class PeopleController {
  constructor(private readonly people: PeopleService) {}

  @Serve('GET /api/people')
  list(): Promise<PersonRow[]> {
    return this.people.list();
  }

  @Serve('POST /api/people')
  create(@Input() person: NewPerson, @Caller() by: Person): Promise<PersonRow> {
    return this.people.create(person, by);
  }

  @Serve('PATCH /api/people')
  change(@Input() change: PersonChange, @Caller() by: Person): Promise<PersonRow> {
    return this.people.change(change, by);
  }
}
