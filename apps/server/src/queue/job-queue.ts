/**
 * Work that goes on while nobody waits for it. pg-boss keeps what is to be done and gives each job to one server; beside it
 * stands how far a job is and who does it (`job_progress`). A server holds a lock while it is there (`Presence`), so that
 * the jobs of one that ended, in whichever way, are begun anew at once and not when their time is over. Everybody is told
 * through the feed: whoever waits for a job, and other servers that may take one.
 */
import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { JOB_KINDS, type JobKind } from '@stem-trace/contract';
import PgBoss from 'pg-boss';
import { DataSource, type EntityManager } from 'typeorm';
import { v5 as uuidOf } from 'uuid';
import { executor, QUEUE_SCHEMA } from '../database/queue-schema.js';
import { flag, readRow, readRows, text, word } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { problemOf } from '../problems/to-problem.js';
import type { JobOrder, Lane } from './job.js';
import { cancelled } from './job-progress.js';
import { endOf, outcomeOf, OUR_FAULT, type JobRow } from './outcome.js';
import { Presence, PRESENCE } from './presence.js';

const NAMES = 'f1b0d1a5-6b43-4c55-9d3e-3f9f4b7f6a10';
/** However much is told, it is looked by itself so often. */
const LOOK_MS = 5000;
/** A server that ended between taking a job and saying so is waited for so long. */
const CLAIM_MS = 10_000;
const AGAIN_MS = 1000;

@Injectable()
export class JobQueue implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('jobs');
  private readonly boss: PgBoss;
  private readonly presence: Presence;
  private readonly lanes = new Map<JobKind, Lane<JobKind>>();
  private readonly running = new Map<JobKind, number>();
  private readonly taking = new Set<JobKind>();
  private readonly told = new Set<JobKind>();
  private readonly waiting = new Set<() => void>();
  private timer: NodeJS.Timeout | undefined;
  private stopListening: (() => void) | undefined;
  private isEnded = false;

  constructor(
    databaseUrl: string,
    private readonly database: DataSource,
    private readonly feed: Feed,
  ) {
    this.presence = new Presence(databaseUrl);
    this.boss = new PgBoss({
      db: executor(database),
      schema: QUEUE_SCHEMA,
      migrate: false,
      schedule: false,
    });
    this.boss.on('error', (error) => this.logger.warn(error.message));
  }

  /** Says how a kind is done here; a server takes only what it knows how to do. */
  handle<K extends JobKind>(kind: K, lane: Lane<K>): void {
    // Lanes are looked up by the kind of the job that they are given.
    this.lanes.set(kind, lane as unknown as Lane<JobKind>);
  }

  async onApplicationBootstrap(): Promise<void> {
    await this.presence.begin();
    await this.boss.start();
    this.stopListening = this.feed.listen((kinds) => {
      if (kinds.includes('jobs')) this.look();
    });
    this.timer = setInterval(() => {
      this.look();
      void this.putBackLeft();
    }, LOOK_MS);
    this.timer.unref();
    await this.putBackLeft();
    this.look();
  }

  async onModuleDestroy(): Promise<void> {
    this.stop();
    await this.boss.stop({ graceful: false });
    await this.presence.end();
  }

  /** Takes nothing more. What is under way here is left to whoever comes next, and whoever waits is told to ask again. */
  stop(): void {
    this.isEnded = true;
    clearInterval(this.timer);
    this.stopListening?.();
    for (const wake of this.waiting) wake();
  }

  /** An id for what is only to be done once at a time, whoever asks for it. */
  idOf(kind: JobKind, key: string): string {
    return uuidOf(`${kind} ${key}`, NAMES);
  }

  /**
   * Asks for a job; one that waits or is being done already stays, one that came to an end is done anew.
   *
   * @param manager of the transaction that makes it necessary, where there is one
   */
  async send<K extends JobKind>(
    kind: K,
    id: string,
    order: JobOrder<K>,
    manager?: EntityManager,
  ): Promise<void> {
    const db = executor(manager ?? this.database);
    await db.executeSql(`DELETE FROM ${QUEUE_SCHEMA}.job WHERE name = $1 AND id = $2 AND state > 'active'`, [
      kind,
      id,
    ]);
    // `id` is an option of the queue that its types leave out.
    await this.boss.send(kind, order, { id, db } as PgBoss.SendOptions);
    await announce(manager ?? this.database, 'jobs');
  }

  /** Whether it waits or is being done. */
  async isUnderWay(kind: JobKind, id: string): Promise<boolean> {
    const row = await this.find(kind, id);
    return row !== undefined && endOf(row) === undefined;
  }

  /** As it stands in the queue; undefined where it never was there, or is long over. */
  async find(kind: JobKind, id: string): Promise<JobRow | undefined> {
    const row = await this.boss.getJobById<JobOrder<JobKind>>(kind, id);
    return row ?? undefined;
  }

  /**
   * What a job left, as soon as it has come to an end.
   *
   * @param signal of whoever waits
   * @throws ProblemError that it ended with; JOB_CANCELLED; BUSY where this server ends before it
   */
  async outcome(kind: JobKind, id: string, signal?: AbortSignal): Promise<unknown> {
    for (;;) {
      const told = this.nextTelling(signal);
      const row = await this.find(kind, id);
      if (!row) throw cancelled();
      if (endOf(row) !== undefined) return outcomeOf(row);
      if (this.isEnded) throw new ProblemError('BUSY', 'The server is ending. Ask again in a moment.');
      if (signal?.aborted) throw cancelled();
      await told;
    }
  }

  /** Asks for the end of a job: one that waits is not begun, one that is being done ends at its next step. */
  async cancel(kind: JobKind, id: string): Promise<void> {
    const wasWaiting = await this.database.transaction(async (manager) => {
      const [job] = await readRows(
        manager,
        { state: text },
        `SELECT state FROM ${QUEUE_SCHEMA}.job WHERE name = $1 AND id = $2 FOR UPDATE`,
        [kind, id],
      );
      if (job?.state === 'active') {
        await manager.query(
          `INSERT INTO job_progress (kind, id, cancel_asked) VALUES ($1, $2, true)
           ON CONFLICT (kind, id) DO UPDATE SET cancel_asked = true`,
          [kind, id],
        );
        return false;
      }
      if (job?.state !== 'created' && job?.state !== 'retry') return false;
      await this.boss.cancel(kind, id, { db: executor(manager) });
      return true;
    });
    if (wasWaiting) await this.lanes.get(kind)?.cancelled?.(id);
    await announce(this.database, 'jobs');
  }

  /** Has what came to an end done once more. */
  async restart(kind: JobKind, id: string, order: JobOrder<JobKind>): Promise<void> {
    await this.lanes.get(kind)?.restarted?.(id);
    await this.send(kind, id, order);
  }

  /** Resolves when anything is told of jobs, after a while, or when the asker is gone. */
  private nextTelling(signal: AbortSignal | undefined): Promise<void> {
    return new Promise((done) => {
      const wake = (): void => {
        clearTimeout(timer);
        this.waiting.delete(wake);
        signal?.removeEventListener('abort', wake);
        done();
      };
      const timer = setTimeout(wake, LOOK_MS);
      timer.unref();
      this.waiting.add(wake);
      signal?.addEventListener('abort', wake, { once: true });
    });
  }

  private look(): void {
    for (const wake of this.waiting) wake();
    for (const kind of JOB_KINDS) void this.take(kind);
  }

  /** Takes jobs of a kind until there are none, or as many are being done as may be. */
  private async take(kind: JobKind): Promise<void> {
    // Told while it is looked: what came in between was not seen, so that it is looked once more.
    this.told.add(kind);
    if (this.taking.has(kind)) return;
    this.taking.add(kind);
    while (this.told.delete(kind)) await this.takeAll(kind);
    this.taking.delete(kind);
  }

  private async takeAll(kind: JobKind): Promise<void> {
    const lane = this.lanes.get(kind);
    while (lane && !this.isEnded && (this.running.get(kind) ?? 0) < lane.atOnce) {
      // The queue answers that there are none where the database does not answer.
      const [row] = await this.boss.fetch<JobOrder<JobKind>>(kind, { includeMetadata: true });
      if (!row) return;
      this.count(kind, 1);
      void this.run(lane, row).finally(() => {
        this.count(kind, -1);
        void this.take(kind);
      });
    }
  }

  private count(kind: JobKind, by: number): void {
    this.running.set(kind, (this.running.get(kind) ?? 0) + by);
  }

  private async run(lane: Lane<JobKind>, { name, id, data }: JobRow): Promise<void> {
    const kind = name as JobKind;
    const { owner } = this.presence;
    let end: () => Promise<void>;
    try {
      await this.database.query(
        `INSERT INTO job_progress (kind, id, owner) VALUES ($1, $2, $3)
         ON CONFLICT (kind, id) DO UPDATE SET owner = excluded.owner, done_count = 0, total_count = 0`,
        [kind, id, owner],
      );
      const outcome = await lane.work({ kind, id, owner, ...data });
      end = async () => void (await this.boss.complete(kind, id, { outcome: outcome ?? null }));
    } catch (error) {
      end = this.endAfter(error, lane, kind, id);
    }
    await this.surely(async () => {
      await end();
      await this.database.query('DELETE FROM job_progress WHERE kind = $1 AND id = $2 AND owner = $3', [
        kind,
        id,
        owner,
      ]);
      await announce(this.database, 'jobs');
    });
  }

  private endAfter(error: unknown, lane: Lane<JobKind>, kind: JobKind, id: string): () => Promise<void> {
    const problem = problemOf(error);
    if (problem?.code === 'JOB_CANCELLED')
      return async () => {
        await lane.cancelled?.(id);
        await this.boss.cancel(kind, id);
      };
    if (problem?.code === 'DATABASE_AWAY')
      return async () => {
        if (await this.putBack(kind, id, this.database)) await lane.failed?.(id, OUR_FAULT);
      };
    if (!problem && !this.isEnded) this.logger.error(error instanceof Error ? error.stack : error);
    const { code, message: detail, details } = problem ?? new ProblemError('INTERNAL', OUR_FAULT);
    return async () => {
      await lane.failed?.(id, detail);
      await this.boss.complete(kind, id, { problem: { code, detail, ...(details ? { details } : {}) } });
    };
  }

  /** The database may be what failed, so this is tried until it is done; what this server leaves, another puts back. */
  private async surely(work: () => Promise<void>): Promise<void> {
    while (!this.isEnded) {
      try {
        await work();
        return;
      } catch (error) {
        this.logger.warn(`the end of a job could not be noted yet: ${String(error)}`);
        await new Promise((done) => setTimeout(done, AGAIN_MS).unref());
      }
    }
  }

  /** Has jobs begun anew whose server is not there any more. */
  private async putBackLeft(): Promise<void> {
    try {
      const givenUp = await this.database.transaction((manager) => this.putBackIn(manager));
      for (const { kind, id } of givenUp) await this.lanes.get(kind)?.failed?.(id, OUR_FAULT);
    } catch (error) {
      if (!this.isEnded) this.logger.warn(`jobs that were left could not be looked for: ${String(error)}`);
    }
  }

  /** One server looks at a time. @returns those that were tried too often */
  private async putBackIn(manager: EntityManager): Promise<{ kind: JobKind; id: string }[]> {
    const lock = await readRow(manager, { mine: flag }, 'SELECT pg_try_advisory_xact_lock($1, 0) AS mine', [
      PRESENCE,
    ]);
    if (lock.mine !== true) return [];
    const left = await readRows(
      manager,
      { kind: word<JobKind>(), id: text },
      `SELECT j.name AS kind, j.id FROM ${QUEUE_SCHEMA}.job j LEFT JOIN job_progress p ON p.kind = j.name AND p.id = j.id
       WHERE j.state = 'active' AND CASE WHEN p.owner IS NULL THEN j.started_on < now() - $2 * interval '1 ms'
         ELSE NOT EXISTS (SELECT 1 FROM pg_locks l WHERE l.locktype = 'advisory' AND l.classid = $1::int::oid
           AND l.objid = p.owner::oid AND l.objsubid = 2
           AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())) END`,
      [PRESENCE, CLAIM_MS],
    );
    const givenUp: typeof left = [];
    for (const job of left) {
      this.logger.log(`going on with ${job.kind} ${job.id}, whose server ended`);
      if (await this.putBack(job.kind, job.id, manager)) givenUp.push(job);
    }
    if (left.length > 0) await announce(manager, 'jobs');
    return givenUp;
  }

  /** To be begun anew. @returns whether it was begun too often, so that this was the end of it */
  private async putBack(kind: JobKind, id: string, database: DataSource | EntityManager): Promise<boolean> {
    const db = executor(database);
    await database.query('UPDATE job_progress SET owner = NULL WHERE kind = $1 AND id = $2', [kind, id]);
    await this.boss.fail(kind, id, { message: 'its server ended' }, { db });
    const row = await this.boss.getJobById(kind, id, { db, includeArchive: false });
    return row?.state === 'failed';
  }
}
