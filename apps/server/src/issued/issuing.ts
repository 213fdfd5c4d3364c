import type { IssuedKind } from '@stem-trace/core';
import { Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { countRows, number, orNull, readRows, text, word } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import type { MeshesService } from '../meshes/meshes.service.js';
import { ProblemError } from '../problems/problem.js';
import { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { waitAfter } from '../queue/wait-after.js';
import type { WorkHost } from '../work/work-host.js';

const ISSUE_JOB = '00000000-0000-4000-8000-000000000003';
const REST_MS = 200;
/** What failed is tried again without anything telling so. */
const LOOK_MS = 2000;

/** After as many it is left out; whoever may release it can ask again. With growing waits, two hours. */
const MOST_TRIES = 20;

const DUE = 'made_at IS NULL AND left_out IS NULL AND next_try <= now()';

interface Due {
  readonly id: string;
  readonly kind: IssuedKind;
  readonly reference: string;
  readonly baseline: string | null;
  readonly personId: string;
  readonly tries: number;
}

/** Makes issued files, one after another, until each is there or it is known why it cannot be. */
export class Issuing implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('issued files');
  private readonly job: StandingJob<'issue'> | undefined;

  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
    private readonly work: WorkHost,
    private readonly meshes: MeshesService,
    feed: Feed,
    queue: JobQueue,
  ) {
    if (!inBackground) return;
    this.job = new StandingJob(
      {
        ...{ kind: 'issue', id: ISSUE_JOB, about: 'Files of what was released', after: 'items' },
        ...{ restMs: REST_MS, lookMs: LOOK_MS },
        isWanted: async () =>
          (await countRows(this.database, `SELECT FROM issued_file WHERE ${DUE} LIMIT 1`)) > 0,
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

  private async catchUp(): Promise<void> {
    for (;;) {
      const [due] = await readRows<Due>(
        this.database,
        {
          ...{ id: text, kind: word<IssuedKind>(), reference: text, baseline: orNull(text) },
          ...{ personId: text, tries: number },
        },
        `SELECT f.id, f.kind, i.number || '@' || r.code || '/' || v.seq AS reference, f.baseline_id AS baseline,
                f.person_id AS "personId", f.tries
         FROM issued_file f JOIN item i ON i.id = f.item_id JOIN version v ON v.id = f.version_id JOIN revision r ON r.id = v.revision_id
         WHERE ${DUE} ORDER BY f.tries, f.id LIMIT 1`,
      );
      if (!due) return;
      await this.make(due);
      await announce(this.database.manager, 'items', 'sheets');
    }
  }

  private async make(due: Due): Promise<void> {
    try {
      const maker = await this.makerFor(due);
      if (due.kind === 'glTF') await this.makeMeshes(due, maker);
      await this.work.ask('issue', { file: due.id }, maker);
    } catch (error) {
      // What was released never changes, so that what is wrong with it stays wrong; templates of bills are mended.
      const isForGood =
        due.tries + 1 >= (error instanceof ProblemError && error.code === 'TOO_COSTLY' ? 2 : MOST_TRIES) ||
        (error instanceof ProblemError && FOR_GOOD.has(error.code) && !due.kind.startsWith('bill'));
      if (!(error instanceof ProblemError)) this.logger.error(error);
      const says =
        error instanceof ProblemError
          ? error.message
          : 'Something went wrong in the server; it is in its log.';
      await this.database.query(
        `UPDATE issued_file SET ${isForGood ? 'left_out' : 'problem'} = $2, tries = tries + 1,
                next_try = now() + make_interval(secs => $3) WHERE id = $1 AND made_at IS NULL`,
        [due.id, says, waitAfter(due.tries + 1)],
      );
    }
  }

  /**
   * Who released it, with sight of everything: what a release hands on is whole, whoever took the step. Whoever wants the file must be
   * allowed to have all that is in it; see `IssuedService.open`.
   */
  private async makerFor({ personId }: Due): Promise<Person> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: personId });
    return Object.assign(new Person(), person, { role: 'administrator' });
  }

  /** Meshes are made by jobs of their own, which a thread cannot wait for. */
  private async makeMeshes({ reference, baseline }: Due, maker: Person): Promise<void> {
    const lens = baseline === null ? 'recorded' : `baseline ${baseline}`;
    const scene = await this.work.ask('scene', { item: reference, lens }, maker);
    for (const { item } of scene.meshes)
      try {
        await this.meshes.meshOf(item, { person: maker, form: 'packed' });
      } catch (error) {
        if (!(error instanceof ProblemError && error.code === 'NO_GEOMETRY')) throw error;
      }
  }
}

const FOR_GOOD: ReadonlySet<ProblemError['code']> = new Set([
  ...(['NO_GEOMETRY', 'NO_TEXT', 'INPUT_INVALID', 'STRUCTURE_TOO_LARGE'] as const),
]);
