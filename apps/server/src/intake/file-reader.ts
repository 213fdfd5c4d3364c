import type { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import { BlobStore } from '../blobs/blob-store.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import type { IntakeFileRow } from '../database/entities/intake.js';

/** What one sheet may hold. */
export const LIMITS = {
  files: 20_000,
  bytes: 20e9,
  fileBytes: 2e9,
  manifestBytes: 50e6,
} as const;

type ReadRow = Omit<IntakeFileRow, 'intakeId'>;

/** Keeps files as blobs, reads them, and puts them onto a sheet. */
@Injectable()
export class FileReader {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
  ) {}

  async read(path: string, content: Readable): Promise<ReadRow> {
    const { sha256, size } = await this.blobs.put(content, LIMITS.fileBytes);
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

  /** Puts files onto a sheet; the same path again replaces what was there. @throws ProblemError INTAKE_TOO_LARGE */
  async keep(manager: EntityManager, id: string, rows: readonly ReadRow[]): Promise<void> {
    await manager.query(
      `INSERT INTO blob (sha256, size) SELECT sha256, size FROM jsonb_to_recordset($1::jsonb) AS r(sha256 text, size bigint)
       ON CONFLICT DO NOTHING`,
      [JSON.stringify(rows.map(({ sha256, size }) => ({ sha256, size })))],
    );
    await manager.query(
      `INSERT INTO intake_file (intake_id, path, sha256, size, reading, problem, passed_over)
       SELECT $1, path, sha256, size, reading, problem, "passedOver"
       FROM jsonb_to_recordset($2::jsonb)
         AS r(path text, sha256 text, size bigint, reading jsonb, problem jsonb, "passedOver" text)
       ON CONFLICT (intake_id, path) DO UPDATE SET sha256 = excluded.sha256, size = excluded.size,
         reading = excluded.reading, problem = excluded.problem, passed_over = excluded.passed_over`,
      [id, JSON.stringify(rows, withoutNulls)],
    );
  }

  /** @throws ProblemError INTAKE_TOO_LARGE where a sheet has as much as one may have */
  async refuseMore(id: string): Promise<void> {
    const [held]: { files: number; bytes: number }[] = await this.database.query(
      'SELECT count(*)::int AS files, coalesce(sum(size), 0)::float8 AS bytes FROM intake_file WHERE intake_id = $1',
      [id],
    );
    if ((held?.files ?? 0) < LIMITS.files && (held?.bytes ?? 0) < LIMITS.bytes) return;
    throw new ProblemError(
      'INTAKE_TOO_LARGE',
      `One sheet takes ${LIMITS.files} files or ${LIMITS.bytes / 1e9} GB. What is on it is kept; carry it out, then bring in the rest.`,
    );
  }

  async noteProgress(id: string): Promise<void> {
    await this.database.query('UPDATE intake SET done_count = done_count + 1 WHERE id = $1', [id]);
  }
}

/** A text of the database holds no null character; a file may claim one anywhere. */
function withoutNulls(_: string, value: unknown): unknown {
  return typeof value === 'string' ? value.replaceAll('\u0000', '\uFFFD') : value;
}
