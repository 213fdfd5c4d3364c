import type { JobKind } from '@stem-trace/contract';
import type { DataSource } from 'typeorm';
import { flag, readRows } from '../database/read-rows.js';
import { outsideTransactions } from '../database/store-data-source.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';

/** A job as whoever does it knows it; plain data, so that a thread can be told. */
export interface JobRef {
  readonly kind: JobKind;
  readonly id: string;
  /** The server that does it. */
  readonly owner: number;
}

/** How often others are told how far a job is, at most. */
const TELL_MS = 250;

/** Tells how far one job is, and learns whether it is still wanted. */
export class JobProgress {
  private toldMs = -Infinity;

  /** @param job undefined where the work is done without a job, and nobody asks how far it is */
  constructor(
    private readonly database: DataSource,
    private readonly job: JobRef | undefined,
  ) {}

  /**
   * Outside of any transaction that is under way, so that others see it.
   *
   * @throws ProblemError JOB_CANCELLED where somebody asked for its end, or another server has taken it over
   */
  async goOn(done: number, total: number): Promise<void> {
    const now = performance.now();
    if (!this.job || (now - this.toldMs < TELL_MS && done < total)) return;
    this.toldMs = now;
    const { kind, id, owner } = this.job;
    // The one second connection of a transaction: it waits for nothing that the transaction holds.
    const isWanted = await outsideTransactions(async () => {
      const [row] = await readRows(
        this.database,
        { cancelled: flag },
        `UPDATE job_progress SET done_count = $4, total_count = $5 WHERE kind = $1 AND id = $2 AND owner = $3
         RETURNING cancel_asked AS cancelled`,
        [kind, id, owner, done, total],
      );
      await announce(this.database, 'jobs');
      return row?.cancelled === false;
    });
    if (!isWanted) throw cancelled();
  }
}

export function cancelled(): ProblemError {
  return new ProblemError('JOB_CANCELLED', 'Somebody ended this before it was done. Nothing was changed.');
}
