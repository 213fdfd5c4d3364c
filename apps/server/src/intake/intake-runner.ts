import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import { Person } from '../database/entities/person.js';
import type { Job } from '../queue/job.js';
import { JobProgress } from '../queue/job-progress.js';
import { JobQueue } from '../queue/job-queue.js';
import { WorkHost } from '../work/work-host.js';
import type { CarriedOut } from './intake-carrier.js';
import { Unpacker } from './unpacker.js';

type During = 'carrying out' | 'unpacking';

/** An unpacking waits for reading, a carrying out for its turn; more at once would not be faster. */
const AT_ONCE = 2;

/** Has sheets unpacked and carried out as jobs; how each ends is in the sheet. */
@Injectable()
export class IntakeRunner implements OnApplicationBootstrap {
  private readonly logger = new Logger('intake');

  constructor(
    private readonly database: DataSource,
    private readonly work: WorkHost,
    private readonly unpacker: Unpacker,
    private readonly queue: JobQueue,
  ) {
    queue.handle('intake', {
      atOnce: AT_ONCE,
      work: (job) => this.carryOut(job),
      failed: (id, failure) => this.mark(id, 'carrying out', { state: 'failed', failure }),
      cancelled: (id) => this.mark(id, 'carrying out', { state: 'collecting' }),
      restarted: (id) => this.begin(id, 'carrying out'),
    });
    queue.handle('unpack', {
      atOnce: AT_ONCE,
      work: async (job) => this.unpacker.unpack(job.id, new JobProgress(this.database, job)),
      failed: (id, failure) => this.mark(id, 'unpacking', { state: 'failed', failure }),
      restarted: (id) => this.begin(id, 'unpacking'),
    });
  }

  /** Sheets that were under way in a store from before there were jobs get theirs. */
  async onApplicationBootstrap(): Promise<void> {
    const left = await this.database
      .getRepository(Intake)
      .find({ where: [{ state: 'carrying out' }, { state: 'unpacking' }], order: { id: 'ASC' } });
    for (const intake of left) await this.send(intake, this.database.manager);
  }

  /** Asks for what the state of a sheet says, in the transaction that brings it into that state. */
  async send(
    { id, state, place, createdBy }: Pick<Intake, 'id' | 'state' | 'place' | 'createdBy'>,
    manager: EntityManager,
  ): Promise<void> {
    const [kind, about] =
      state === 'unpacking' ? (['unpack', 'An archive'] as const) : (['intake', 'Files'] as const);
    const order = { input: {}, about: `${about} for ${place}`, personId: createdBy };
    await this.queue.send(kind, id, order, manager.queryRunner ? manager : undefined);
  }

  /** Ends what is under way; a sheet that is carried out then waits again. */
  async cancel(id: string, during: During): Promise<void> {
    await this.queue.cancel(during === 'unpacking' ? 'unpack' : 'intake', id);
  }

  /**
   * Carries out and waits for the end, without a job.
   *
   * @param at the time that the versions get
   */
  async carryOutAt(id: string, person: Person, at: Date): Promise<CarriedOut> {
    return this.work.ask('intake carry out', { id, at }, person);
  }

  private async carryOut({ id, kind, owner }: Job<'intake'>): Promise<void> {
    const { createdBy } = await this.database.getRepository(Intake).findOneByOrFail({ id });
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: createdBy });
    const order = { id, at: new Date(), job: { kind, id, owner } };
    const carried = await this.work.ask('intake carry out', order, person);
    if (carried.kind !== 'done') return;
    const { items, versions, links } = carried.result;
    this.logger.log(`intake ${id}: ${items} items, ${versions} versions, ${links} links`);
  }

  private async mark(
    id: string,
    during: During,
    change: Partial<Pick<Intake, 'state' | 'failure'>>,
  ): Promise<void> {
    await this.database.getRepository(Intake).update({ id, state: during }, change);
  }

  /** A sheet whose job is done once more. What was given up or carried out meanwhile stays so. */
  private async begin(id: string, state: During): Promise<void> {
    await this.database
      .createQueryBuilder()
      .update(Intake)
      .set({ state, failure: null })
      .where(`id = :id AND state IN ('failed', 'collecting')`, { id })
      .execute();
  }
}
