import { Controller, Req, Res, StreamableFile } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  IntakeRequest,
  IntakeSheetRow,
  IntakeView,
} from '@stem-trace/contract';
import type { Request, Response } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { showFile } from '../files/shown-file.js';
import { IntakeService } from './intake.service.js';
import { StagedFilesService } from './staged-files.service.js';
import { Input, Serve } from '../serve/serve.js';

interface Sheet {
  readonly id: string;
}

interface StagedFile extends Sheet {
  readonly path: string;
}

@Controller()
export class IntakeController {
  constructor(
    private readonly intakes: IntakeService,
    private readonly staged: StagedFilesService,
  ) {}

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

  /** Takes a file apart as a check-in that is looked at before it is carried out. */
  @Serve('POST /api/intakes/split')
  async split(@Input() request: { item: string }, @Caller() person: Person): Promise<IntakeView | JsonBytes> {
    return this.intakes.view(await this.intakes.createFromSplit(request.item, person), person);
  }

  @Serve('POST /api/intakes/:id/cancel')
  async cancel(@Input() { id }: Sheet, @Caller() person: Person): Promise<IntakeView | JsonBytes> {
    await this.intakes.cancel(id, person);
    return this.intakes.view(id, person);
  }

  @Serve('PUT /api/intakes/:id/files')
  addFile(
    @Input() { id, path }: StagedFile,
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

  @Serve('GET /api/staged/file')
  async file(
    @Input() { id, path }: StagedFile,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return showFile(response, await this.staged.open(id, path, person));
  }

  @Serve('GET /api/staged/mesh')
  async mesh(
    @Input() { id, path }: StagedFile,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<StreamableFile> {
    return new StreamableFile(await this.staged.mesh(id, path, person, asker), { type: 'model/gltf-binary' });
  }
}
