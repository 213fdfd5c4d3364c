import { RightsService } from '../access/rights.service.js';
import { refuseHiddenRows } from '../store/named-in-file.js';
import { Injectable } from '@nestjs/common';
import type { FileTextAnswer } from '@stem-trace/contract';
import type { FileReading } from '@stem-trace/core';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { LRUCache } from 'lru-cache';
import { DataSource } from 'typeorm';
import { PerPerson } from '../work/per-person.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { recordQuietly } from '../trail/record.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import { openBlob, type OpenedFile } from './shown-file.js';

const RECORD_AGAIN_MS = 10 * 60_000;

@Injectable()
export class FilesService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
    private readonly rights: RightsService,
    private readonly database: DataSource,
  ) {}

  private readonly limit = new PerPerson();
  private readonly recorded = new LRUCache<string, true>({ max: 10_000, ttl: RECORD_AGAIN_MS });

  /**
   * The file of a version as it was stored. It leaves the store, so that the right to fetch is asked for, also where what it
   * lives in lies; and it is recorded.
   *
   * @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED
   */
  async open(reference: string, person: Person): Promise<OpenedFile> {
    const version = await this.catalogue.resolve(reference, person, 'fetch');
    await this.catalogue.requireFile(version, person);
    await this.refuseHiddenRows(version, person);
    await this.record(version, person);
    return openBlob(this.blobs, version.sha256, version.storedFileName);
  }

  private async refuseHiddenRows(version: DescribedVersion, person: Person): Promise<void> {
    await refuseHiddenRows(this.database.manager, version, this.blobs, await this.rights.of(person));
  }

  private async record({ id, itemId, number, label }: DescribedVersion, person: Person): Promise<void> {
    // A picture is asked for again and again by those who look at it.
    const key = `${person.id} ${id}`;
    if (this.recorded.has(key)) return;
    this.recorded.set(key, true);
    await recordQuietly(this.database.manager, [
      {
        personId: person.id,
        kind: 'fetch',
        itemId,
        says: `${person.name} opened the file of ${number} ${label}`,
      },
    ]);
  }

  /** The text in an item's file, as it is found by. */
  async textOf(reference: string, person: Person): Promise<FileTextAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    await this.refuseHiddenRows(version, person);
    const outcome = await this.limit.run(person.id, () =>
      this.readers.read({ file: this.blobs.pathOf(version.sha256), path: version.storedFileName }),
    );
    if (outcome.kind !== 'read')
      throw new ProblemError('NO_TEXT', `The file of ${version.number} has no text that can be read.`);
    const { format, text = '' } = JSON.parse(outcome.reading) as FileReading;
    return { format, text };
  }
}
