import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type { FileTextAnswer } from '@stem-trace/contract';
import type { Response } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { DocumentsService } from './documents.service.js';
import { FilesService } from './files.service.js';
import { showFile } from './shown-file.js';
import { Input, Serve } from '../serve/serve.js';

/** An item's file as it was stored, for looking at in the browser. */
@Controller()
export class FilesController {
  constructor(
    private readonly files: FilesService,
    private readonly documents: DocumentsService,
  ) {}

  @Serve('GET /api/file')
  async file(
    @Input() { item }: { item: string },
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return showFile(response, await this.files.open(item, person));
  }

  @Serve('GET /api/text')
  text(@Input() { item }: { item: string }, @Caller() person: Person): Promise<FileTextAnswer> {
    return this.files.textOf(item, person);
  }

  @Serve('GET /api/document')
  document(
    @Input() { item }: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.documents.open(item, person, asker);
  }
}
