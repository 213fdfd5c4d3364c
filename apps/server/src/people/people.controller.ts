import { Controller, Req } from '@nestjs/common';
import type { NewPerson, PasswordRequest, PersonChange, PersonRow, Preferences } from '@stem-trace/contract';
import type { Request } from 'express';
import { Caller, sessionCookie } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { PeopleService } from './people.service.js';
import { SelfService } from './self.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class PeopleController {
  constructor(
    private readonly people: PeopleService,
    private readonly self: SelfService,
  ) {}

  @Serve('GET /api/people')
  list(): Promise<PersonRow[]> {
    return this.people.list();
  }

  @Serve('POST /api/password')
  setPassword(
    @Input() input: PasswordRequest,
    @Caller() person: Person,
    @Req() request: Request,
  ): Promise<void> {
    return this.self.setPassword(input, person, sessionCookie(request));
  }

  @Serve('GET /api/preferences')
  preferences(@Caller() person: Person): Promise<Preferences> {
    return this.self.preferences(person);
  }

  @Serve('PUT /api/preferences')
  setPreferences(@Input() preferences: Preferences, @Caller() person: Person): Promise<Preferences> {
    return this.self.setPreferences(preferences, person);
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
