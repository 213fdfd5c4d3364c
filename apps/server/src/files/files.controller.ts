import { Controller, Res, StreamableFile } from '@nestjs/common';
import type { FileTextAnswer } from '@stem-trace/contract';
import type { Response } from 'express';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { FilesService } from './files.service.js';
import { Input, Serve } from '../serve/serve.js';

/** An item's file as it was stored, for looking at in the browser. */
@Controller()
export class FilesController {
  constructor(private readonly files: FilesService) {}

  @Serve('GET /api/file')
  async file(
    @Input() { item }: { item: string },
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    const { name, type, size, content, etag } = await this.files.open(item, person);
    response.set({
      ETag: etag,
      'Cache-Control': 'private, no-cache',
      // Whatever somebody brought in: it is shown, and never runs.
      'Content-Security-Policy': "sandbox; default-src 'none'; style-src 'unsafe-inline'",
      'Content-Disposition': `${type === UNKNOWN ? 'attachment' : 'inline'}; filename*=UTF-8''${encodeURIComponent(name)}`,
    });
    return new StreamableFile(content, { type, length: size });
  }

  @Serve('GET /api/text')
  text(@Input() { item }: { item: string }, @Caller() person: Person): Promise<FileTextAnswer> {
    return this.files.textOf(item, person);
  }
}

const UNKNOWN = 'application/octet-stream';
