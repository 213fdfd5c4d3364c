import { Controller, Req } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  IntakeRequest,
  IntakeSheetRow,
  IntakeView,
} from '@stem-trace/contract';
import type { Request } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { IntakeService } from './intake.service.js';
import { Input, Serve } from '../serve/serve.js';

interface Sheet {
  readonly id: string;
}

@Controller()
export class IntakeController {
  constructor(private readonly intakes: IntakeService) {}

  @Serve('POST /api/intakes')
  async create(@Input() body: IntakeRequest, @Caller() person: Person): Promise<IntakeView | JsonBytes> {
    return this.intakes.view(await this.intakes.create(body, person), person);
  }

  @Serve('GET /api/intakes')
  list(@Caller() person: Person): Promise<IntakeSheetRow[]> {
    return this.intakes.list(person);
  }

  /** The body is a ZIP: a folder of files, or a working copy that comes back. */
  @Serve('POST /api/intakes/archive')
  async createFromArchive(
    @Input() request: { place: string; prefix: string },
    @Req() body: Request,
    @Caller() person: Person,
  ): Promise<IntakeView | JsonBytes> {
    return this.intakes.view(await this.intakes.createFromArchive(request, body, person), person);
  }

  @Serve('POST /api/intakes/:id/cancel')
  async cancel(@Input() { id }: Sheet, @Caller() person: Person): Promise<IntakeView | JsonBytes> {
    await this.intakes.cancel(id, person);
    return this.intakes.view(id, person);
  }

  @Serve('PUT /api/intakes/:id/files')
  addFile(
    @Input() { id, path }: Sheet & { readonly path: string },
    @Req() request: Request,
    @Caller() person: Person,
  ): Promise<void> {
    return this.intakes.addFile(id, path, request, person);
  }

  @Serve('GET /api/intakes/:id')
  view(
    @Input() { id }: Sheet,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<IntakeView | JsonBytes> {
    return this.intakes.view(id, person, asker);
  }

  @Serve('PATCH /api/intakes/:id')
  async correct(
    @Input() { id, ...correction }: Sheet & CorrectionRequest,
    @Caller() person: Person,
  ): Promise<IntakeView | JsonBytes> {
    await this.intakes.correct(id, correction, person);
    return this.intakes.view(id, person);
  }

  @Serve('POST /api/intakes/:id/carry-out')
  async carryOut(
    @Input() { id, ...request }: Sheet & CarryOutRequest,
    @Caller() person: Person,
  ): Promise<IntakeView | JsonBytes> {
    await this.intakes.carryOut(id, request, person);
    return this.intakes.view(id, person);
  }
}
