import type { BillRelease, PlanningState } from '@stem-trace/contract';
import type { OnApplicationBootstrap, OnModuleDestroy } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { countRows, flag, json, number, orNull, readRows, text, timeText } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';
import { waitAfter } from '../queue/wait-after.js';
import { sendToPlanning } from './planning.js';

const PLANNING_JOB = '00000000-0000-4000-8000-000000000006';
const REST_MS = 200;
/** What waits for planning to be there again is looked at so often. */
const LOOK_MS = 2000;

/**
 * What planning does not have, once its time has come, and all that was released in the same step is made: planning orders by what is
 * issued.
 */
const DUE = `b.planning_sent_at IS NULL AND b.planning_next <= now() AND NOT EXISTS (
  SELECT FROM issued_file f WHERE f.asked_at = b.released_at AND f.made_at IS NULL AND f.left_out IS NULL)
  AND EXISTS (SELECT FROM issued_file x WHERE x.version_id = b.version_id AND x.kind = 'bill as XML' AND x.made_at IS NOT NULL)`;

interface OpenRelease {
  readonly id: string;
  readonly sha256: string;
  readonly tries: number;
}

/** Releases of bills, and what planning was sent of them. */
export class ReleasesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly job: StandingJob<'planning'> | undefined;
  /** Empty where there is no planning system. */
  private readonly planningAddress: string;

  constructor(
    { planningAddress, inBackground }: { readonly planningAddress: string; readonly inBackground: boolean },
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly blobs: BlobStore,
    feed: Feed,
    queue: JobQueue,
  ) {
    this.planningAddress = planningAddress;
    if (!inBackground || planningAddress === '') return;
    this.job = new StandingJob(
      {
        ...{ kind: 'planning', id: PLANNING_JOB, about: 'Released bills for planning', after: 'items' },
        restMs: REST_MS,
        lookMs: LOOK_MS,
        isWanted: async () =>
          (await countRows(this.database, `SELECT FROM bill_release b WHERE ${DUE} LIMIT 1`)) > 0,
        work: () => this.catchUp(),
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

  /** Inside the transaction of the step that releases. */
  async begin(
    manager: EntityManager,
    bills: readonly DescribedVersion[],
    { person, notes, at }: { readonly person: Person; readonly notes: string; readonly at: Date },
  ): Promise<void> {
    for (const bill of bills)
      await manager.query(
        'INSERT INTO bill_release (item_id, version_id, person_id, notes, released_at) VALUES ($1, $2, $3, $4, $5)',
        [bill.itemId, bill.id, person.id, notes, at],
      );
  }

  /** Newest first. */
  async list(reference: string, person: Person): Promise<BillRelease[]> {
    const { itemId } = await this.catalogue.resolve(reference, person);
    const hidden = (await this.rights.of(person)).placesWithout('receive');
    const rows = await readRows(
      this.database,
      {
        ...{ version: text, at: timeText, by: text, notes: text, isSuperseded: flag },
        ...{ files: json<BillRelease['files']>(), problem: orNull(text), tries: number },
        ...{ sentAt: orNull(timeText), planningProblem: orNull(text), isIssued: flag },
      },
      `SELECT ${LABEL} AS version, b.released_at AS at, p.name AS by, b.notes, EXISTS (SELECT FROM bill_release later WHERE later.item_id = b.item_id AND later.id > b.id) AS "isSuperseded",
              (SELECT coalesce(jsonb_agg(jsonb_build_object('id', f.id::text, 'name', f.name, 'size', f.size) ORDER BY f.id), '[]')
                FROM issued_file f WHERE f.version_id = b.version_id AND f.made_at IS NOT NULL) AS files,
              (SELECT coalesce(f.left_out, f.problem) FROM issued_file f
                WHERE f.version_id = b.version_id AND f.made_at IS NULL AND coalesce(f.left_out, f.problem) IS NOT NULL
                  AND NOT EXISTS (SELECT FROM bill_use u JOIN item o ON o.id = u.item_id
                    WHERE u.sha256 = v.sha256 AND o.place_id = ANY($2::bigint[]))
                ORDER BY f.id LIMIT 1) AS problem,
              EXISTS (SELECT FROM issued_file x WHERE x.version_id = b.version_id AND x.kind = 'bill as XML') AS "isIssued",
              b.planning_tries AS tries, b.planning_sent_at AS "sentAt", b.planning_problem AS "planningProblem"
       FROM bill_release b JOIN version v ON v.id = b.version_id JOIN revision r ON r.id = v.revision_id
       JOIN person p ON p.id = b.person_id WHERE b.item_id = $1 ORDER BY b.id DESC`,
      [itemId, hidden],
    );
    return rows.map(({ tries, sentAt, planningProblem, isIssued, ...row }) => ({
      ...row,
      isSuperseded: row.isSuperseded === true,
      planning: { state: this.stateOf(sentAt, isIssued === true), tries, sentAt, problem: planningProblem },
    }));
  }

  /** What was released without its files is nothing that planning could be sent. */
  private stateOf(sentAt: string | null, isIssued: boolean): PlanningState['state'] {
    if (sentAt !== null) return 'sent';
    return this.planningAddress === '' || !isIssued ? 'off' : 'waiting';
  }

  private async catchUp(): Promise<void> {
    for (;;) {
      const [open] = await readRows<OpenRelease>(
        this.database,
        { id: text, sha256: text, tries: number },
        `SELECT b.id::text, (SELECT f.sha256 FROM issued_file f WHERE f.version_id = b.version_id AND f.kind = 'bill as XML') AS sha256,
                b.planning_tries AS tries FROM bill_release b WHERE ${DUE} ORDER BY b.id LIMIT 1`,
      );
      if (!open) return;
      await this.send(open);
      await announce(this.database, 'items');
    }
  }

  private async send({ id, sha256, tries }: OpenRelease): Promise<void> {
    try {
      const xml = new TextDecoder().decode(await this.blobs.read(sha256));
      await sendToPlanning(this.planningAddress, `bill-release-${id}`, xml);
    } catch (error) {
      await this.database.query(
        `UPDATE bill_release SET planning_problem = $2, planning_tries = planning_tries + 1,
                planning_next = now() + make_interval(secs => $3) WHERE id = $1`,
        [id, error instanceof Error ? error.message : String(error), waitAfter(tries + 1)],
      );
      return;
    }
    await this.database.query(
      `UPDATE bill_release SET planning_sent_at = now(), planning_tries = planning_tries + 1, planning_problem = NULL
       WHERE id = $1`,
      [id],
    );
  }
}
