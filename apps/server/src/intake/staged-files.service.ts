import { Injectable } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { openBlob, type OpenedFile } from '../files/shown-file.js';
import { MeshesService } from '../meshes/meshes.service.js';
import { ProblemError } from '../problems/problem.js';
import { findSheet } from './intake-review.js';

/** Files of a sheet, to be looked at before they come in. */
@Injectable()
export class StagedFilesService {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly meshes: MeshesService,
  ) {}

  /** @throws ProblemError INTAKE_UNKNOWN also for somebody else's sheet, NOT_FOUND */
  async open(id: string, path: string, person: Person): Promise<OpenedFile> {
    const sha256 = await this.contentOf(id, path, person);
    return openBlob(this.blobs, sha256, path.slice(path.lastIndexOf('/') + 1));
  }

  /** Binary glTF of what the file itself holds. @throws ProblemError INTAKE_UNKNOWN, NOT_FOUND, NO_GEOMETRY */
  async mesh(id: string, path: string, person: Person, asker: AbortSignal): Promise<Uint8Array> {
    const sha256 = await this.contentOf(id, path, person);
    return this.meshes.meshFrom(
      { sha256, productRef: 0, names: [] },
      { about: path, person, asker, form: 'plain' },
    );
  }

  private async contentOf(id: string, path: string, person: Person): Promise<string> {
    await findSheet(this.database, id, person);
    const [file] = await readRows(
      this.database,
      { sha256: text },
      'SELECT sha256 FROM intake_file WHERE intake_id = $1 AND path = $2 AND passed_over IS NULL',
      [id, path],
    );
    if (!file)
      throw new ProblemError('NOT_FOUND', 'This sheet has no such file. Look at the sheet as it is now.');
    return file.sha256;
  }
}
