import type { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import type { FileTextAnswer } from '@stem-trace/contract';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../items/catalogue.service.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';

/** Types that a browser shows by itself, or our own pictures are made from; anything else is handed out for saving. */
const TYPES: Readonly<Record<string, string>> = {
  dxf: 'application/dxf',
  pdf: 'application/pdf',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  bmp: 'image/bmp',
  svg: 'image/svg+xml',
  txt: 'text/plain; charset=utf-8',
};

export interface OpenedFile {
  readonly name: string;
  readonly type: string;
  readonly size: number;
  readonly etag: string;
  readonly content: Readable;
}

@Injectable()
export class FilesService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
  ) {}

  async open(reference: string, person: Person): Promise<OpenedFile> {
    const version = await this.catalogue.resolve(reference, person);
    const name = version.storedFileName;
    const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase();
    return {
      name,
      type: TYPES[ending] ?? 'application/octet-stream',
      size: await this.blobs.sizeOf(version.sha256),
      etag: `"${version.sha256}"`,
      content: this.blobs.stream(version.sha256),
    };
  }

  /** The text in an item's file, as it is found by. */
  async textOf(reference: string, person: Person): Promise<FileTextAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    const outcome = await this.readers.read({
      file: this.blobs.pathOf(version.sha256),
      path: version.storedFileName,
    });
    if (outcome.kind !== 'read')
      throw new ProblemError('NO_TEXT', `The file of ${version.number} has no text that can be read.`);
    return { format: outcome.reading.format, text: outcome.reading.text ?? '' };
  }
}
