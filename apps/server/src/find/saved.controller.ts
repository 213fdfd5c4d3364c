import { Controller } from '@nestjs/common';
import type { SavedRow, SaveRequest } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { SavedService } from './saved.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class SavedController {
  constructor(private readonly saved: SavedService) {}

  @Serve('GET /api/saved')
  list(@Caller() person: Person): Promise<SavedRow[]> {
    return this.saved.list(person);
  }

  @Serve('POST /api/saved')
  save(@Input() request: SaveRequest, @Caller() person: Person): Promise<SavedRow[]> {
    return this.saved.save(request, person);
  }

  @Serve('DELETE /api/saved/:id')
  remove(@Input() { id }: { id: string }, @Caller() person: Person): Promise<SavedRow[]> {
    return this.saved.remove(id, person);
  }
}
