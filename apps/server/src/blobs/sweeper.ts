import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { flag, readRows, text } from '../database/read-rows.js';
import { BlobStore } from './blob-store.js';

const EVERY_MS = 6 * 60 * 60_000;
const FIRST_MS = 10 * 60_000;
/** Long enough that nothing which is still being put onto a sheet is taken for left over. */
const OLD_HOURS = 48;
const BATCH = 500;

/** Throws away bytes that were uploaded and never became part of a version or a sheet that waits. */
@Injectable()
export class Sweeper implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('sweeper');
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
  ) {}

  onApplicationBootstrap(): void {
    this.plan(FIRST_MS);
  }

  onModuleDestroy(): void {
    clearTimeout(this.timer);
  }

  private plan(afterMs: number): void {
    this.timer = setTimeout(() => {
      this.sweep(OLD_HOURS)
        .catch((error: unknown) => this.logger.warn(String(error)))
        .finally(() => this.plan(EVERY_MS));
    }, afterMs);
    this.timer.unref();
  }

  /**
   * The row goes first: whoever brings the same bytes in at this moment either keeps the row, and with it the file, or
   * writes both anew.
   *
   * @returns how many blobs went
   */
  async sweep(olderThanHours: number): Promise<number> {
    await this.blobs.removeUnfinished(new Date(Date.now() - olderThanHours * 3_600_000));
    let swept = 0;
    for (;;) {
      const gone = await this.database.transaction(async (manager) => {
        // A backup that is being made still needs what it has seen.
        const [turn] = await readRows(
          manager,
          { mine: flag },
          `SELECT pg_try_advisory_xact_lock(hashtext('stem-trace sweep')) AS mine`,
        );
        if (turn?.mine !== true) return 0;
        const rows = await readRows(
          manager,
          { sha256: text },
          `SELECT b.sha256 FROM blob b
           WHERE b.stored_at < now() - make_interval(hours => $1::int)
             AND NOT EXISTS (SELECT FROM version v WHERE v.sha256 = b.sha256)
             AND NOT EXISTS (SELECT FROM issued_file f WHERE f.sha256 = b.sha256)
             AND NOT EXISTS (SELECT FROM intake_file f JOIN intake i ON i.id = f.intake_id
                             WHERE f.sha256 = b.sha256 AND i.state <> 'done')
             AND NOT EXISTS (SELECT FROM intake i WHERE i.archive_sha256 = b.sha256 AND i.state = 'unpacking')
           LIMIT ${BATCH} FOR UPDATE SKIP LOCKED`,
          [olderThanHours],
        );
        const hashes = rows.map(({ sha256 }) => sha256);
        await manager.query('DELETE FROM intake_file WHERE sha256 = ANY($1::text[])', [hashes]);
        await manager.query('DELETE FROM blob WHERE sha256 = ANY($1::text[])', [hashes]);
        // Within the transaction: who wants the row waits until the file is gone, and then writes it again.
        for (const sha256 of hashes) await this.blobs.remove(sha256);
        return hashes.length;
      });
      swept += gone;
      if (gone < BATCH) return swept;
    }
  }
}
