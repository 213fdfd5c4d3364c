import type { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import { BlobStore, type StoredBlob } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import { number, readRow } from '../database/read-rows.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import type { Intake, IntakeFileRow } from '../database/entities/intake.js';

/** What one sheet may hold. */
export const LIMITS = {
  files: 20_000,
  bytes: 20e9,
  fileBytes: 2e9,
  manifestBytes: 50e6,
} as const;

/** A file that was read; the reading as JSON. */
export type ReadRow = Omit<IntakeFileRow, 'intakeId' | 'reading'> & { readonly reading: string | null };

/** Keeps files as blobs, reads them, and puts them onto a sheet. */
@Injectable()
export class FileReader {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
  ) {}

  async read(path: string, content: Readable): Promise<ReadRow> {
    const { sha256, size } = await this.keepBlob(content);
    const outcome = await this.readers.read({ file: this.blobs.pathOf(sha256), path });
    return {
      path,
      sha256,
      size: String(size),
      reading: outcome.kind === 'read' ? outcome.reading : null,
      problem: outcome.kind === 'problem' ? { line: outcome.line, reason: outcome.reason } : null,
      passedOver: outcome.kind === 'passedOver' ? outcome.reason : null,
    };
  }

  /** @throws ProblemError as `keepBlob` */
  async keepBlob(content: Readable): Promise<StoredBlob> {
    return keepBlob(this.database, this.blobs, content, LIMITS.fileBytes);
  }

  /** Puts files that were read onto a sheet, some at a time; the same path again replaces what was there. */
  async keep(manager: EntityManager, id: string, rows: readonly ReadRow[]): Promise<void> {
    for (const batch of batches(rows)) {
      const column = <K extends keyof ReadRow>(name: K): ReadRow[K][] => batch.map((row) => row[name]);
      await manager.query(
        `INSERT INTO intake_file (intake_id, path, sha256, size, reading, problem, passed_over)
         SELECT $1, path, sha256, size, reading::jsonb, problem::jsonb, passed_over
         FROM unnest($2::text[], $3::text[], $4::bigint[], $5::text[], $6::text[], $7::text[])
           AS r(path, sha256, size, reading, problem, passed_over)
         ON CONFLICT (intake_id, path) DO UPDATE SET sha256 = excluded.sha256, size = excluded.size,
           reading = excluded.reading, problem = excluded.problem, passed_over = excluded.passed_over`,
        [
          id,
          column('path'),
          column('sha256'),
          column('size'),
          column('reading'),
          batch.map(({ problem }) => problem && JSON.stringify(problem)),
          column('passedOver'),
        ],
      );
    }
  }

  /**
   * @param quotaBytes what one person may have on sheets that were not carried out: it takes room that is everybody's
   * @throws ProblemError INTAKE_TOO_LARGE where a sheet, or its owner, has as much as one may have
   */
  async refuseMore({ id, createdBy }: Pick<Intake, 'id' | 'createdBy'>, quotaBytes: number): Promise<void> {
    const { files, bytes, mine } = await readRow(
      this.database,
      { files: number, bytes: number, mine: number },
      `SELECT count(*) FILTER (WHERE f.intake_id = $1)::int AS files,
              coalesce(sum(f.size) FILTER (WHERE f.intake_id = $1), 0)::float8 AS bytes,
              coalesce(sum(f.size), 0)::float8 AS mine
       FROM intake i JOIN intake_file f ON f.intake_id = i.id
       WHERE i.created_by = $2 AND i.state NOT IN ('done', 'cancelled')`,
      [id, createdBy],
    );
    if (mine >= quotaBytes)
      throw new ProblemError(
        'INTAKE_TOO_LARGE',
        `Your sheets hold ${quotaBytes / 1e9} GB that were not carried out, which is as much as one person may have. Carry them out or give them up, then bring in the rest.`,
      );
    if (files >= LIMITS.files || bytes >= LIMITS.bytes)
      throw new ProblemError(
        'INTAKE_TOO_LARGE',
        `One sheet takes ${LIMITS.files} files or ${LIMITS.bytes / 1e9} GB. What is on it is kept; carry it out, then bring in the rest.`,
      );
  }
}

const BATCH_ROWS = 500;
const BATCH_CHARACTERS = 8_000_000;

/** So many rows at a time that one statement stays small, in their order. */
function* batches(rows: readonly ReadRow[]): Generator<ReadRow[]> {
  let batch: ReadRow[] = [];
  let characters = 0;
  for (const row of rows) {
    const length = row.reading?.length ?? 0;
    if (batch.length >= BATCH_ROWS || (batch.length > 0 && characters + length > BATCH_CHARACTERS)) {
      yield batch;
      [batch, characters] = [[], 0];
    }
    batch.push(row);
    characters += length;
  }
  if (batch.length > 0) yield batch;
}
