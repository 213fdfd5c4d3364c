import { type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import { countRows, readRows, text } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { JobProgress, type JobRef } from '../queue/job-progress.js';
import { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { loadRollUp } from './load.js';
import { sumUp } from './sum-up.js';
import { keepSums } from './keep.js';

const ROLL_UP_JOB = '00000000-0000-4000-8000-000000000002';
const REST_MS = 300;
/** Changed items whose sums are worked out in one go, with all that uses them: in parts, what uses them all would be met anew each time. */
const MANY = 200_000;

/** Everything that uses some items in its newest version, at any level, and these themselves. */
const ABOVE = `
  WITH RECURSIVE touched(item) AS (
    SELECT DISTINCT unnest($1::bigint[])
    UNION
    SELECT v.item_id FROM touched t JOIN link l ON l.target_item_id = t.item
    JOIN version v ON v.id = l.version_id JOIN item i ON i.newest_version_id = v.id)
  SELECT item::text AS item FROM touched`;

/** What it stands on, in the order in which it takes them. */
export type RollUpsNeeds =
  ConstructorParameters<typeof RollUpsService> extends [boolean, ...infer Needs] ? Needs : never;

/** Keeps beside every assembly what it weighs and costs, under the lens *Newest*: soon after something below it changes. */
export class RollUpsService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly job: StandingJob<'roll-up'> | undefined;

  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
    feed: Feed,
    queue: JobQueue,
  ) {
    if (!inBackground) return;
    this.job = new StandingJob(
      {
        kind: 'roll-up',
        id: ROLL_UP_JOB,
        about: 'Mass and cost of assemblies',
        after: 'items',
        restMs: REST_MS,
        isWanted: async () => (await countRows(database, 'SELECT FROM roll_up_due LIMIT 1')) > 0,
        work: (job) => this.catchUp(job),
      },
      queue,
      feed,
    );
  }

  onApplicationBootstrap(): void {
    this.job?.begin();
  }

  onModuleDestroy(): void {
    this.job?.end();
  }

  /** Works off every note that something changed. */
  async catchUp(job?: JobRef): Promise<void> {
    const progress = new JobProgress(this.database, job);
    let changed = 0;
    for (let done = 0; ;) {
      const due = await readRows(
        this.database,
        { told: text, item: text },
        `SELECT told::text, item_id::text AS item FROM roll_up_due ORDER BY told LIMIT ${MANY}`,
      );
      if (due.length === 0) break;
      const items = due.map(({ item }) => item);
      changed += await this.database.transaction(async (manager) => {
        const count = await this.anew(manager, items);
        await manager.query('DELETE FROM roll_up_due WHERE told = ANY($1::bigint[])', [
          due.map(({ told }) => told),
        ]);
        return count;
      });
      done += due.length;
      await progress.goOn(done, done);
    }
    // People look again only where something reads differently now.
    if (changed > 0) await announce(this.database, 'items');
  }

  /** @returns how many sums are others than before */
  private async anew(manager: EntityManager, items: readonly string[]): Promise<number> {
    const touched = await readRows(manager, { item: text }, ABOVE, [items]);
    const loaded = await loadRollUp(
      manager,
      touched.map(({ item }) => item),
    );
    return keepSums(manager, sumUp(loaded), loaded.properties);
  }
}
