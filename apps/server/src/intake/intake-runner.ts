import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import { Person } from '../database/entities/person.js';
import { problemOf } from '../problems/to-problem.js';
import { WorkHost } from '../work/work-host.js';
import type { CarriedOut } from './intake-carrier.js';
import { Unpacker } from './unpacker.js';

const MARK_TRIES = 120;
const MARK_AGAIN_MS = 1000;

type During = 'carrying out' | 'unpacking';

/** Has sheets carried out on the thread of writers, and goes on with those that a stopped server left. */
@Injectable()
export class IntakeRunner implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('intake');

  private isEnded = false;

  constructor(
    private readonly database: DataSource,
    private readonly work: WorkHost,
    private readonly unpacker: Unpacker,
  ) {}

  onModuleDestroy(): void {
    this.isEnded = true;
  }

  /**
   * What was under way when a server stopped was rolled back with its transaction, and is begun anew. Where another
   * process is still at it, the two take turns, and the second finds it done.
   */
  async onApplicationBootstrap(): Promise<void> {
    const left = await this.database
      .getRepository(Intake)
      .find({ where: [{ state: 'carrying out' }, { state: 'unpacking' }], order: { id: 'ASC' } });
    for (const intake of left) {
      const person = await this.database.getRepository(Person).findOneByOrFail({ id: intake.createdBy });
      this.logger.log(`going on with intake ${intake.id}, which was ${intake.state}`);
      if (intake.state === 'unpacking') this.unpack(intake.id);
      else void this.run(intake.id, person);
    }
  }

  /** Unpacks a sheet's archive; its end is in the sheet. */
  unpack(id: string): void {
    void this.unpacker.unpack(id).catch((error: unknown) => this.markFailed(id, 'unpacking', error));
  }

  /** Carries out a sheet that is marked so; its end is in the sheet. */
  async run(id: string, person: Person): Promise<void> {
    try {
      const carried = await this.carryOutAt(id, person, new Date());
      if (carried.kind === 'cancelled')
        await this.mark(id, 'carrying out', { state: 'collecting', cancelAsked: false });
      if (carried.kind === 'done') {
        const { items, versions, links } = carried.result;
        this.logger.log(`intake ${id}: ${items} items, ${versions} versions, ${links} links`);
      }
    } catch (error) {
      await this.markFailed(id, 'carrying out', error);
    }
  }

  /**
   * Carries out and waits for the end.
   *
   * @param at the time that the versions get
   */
  async carryOutAt(id: string, person: Person, at: Date): Promise<CarriedOut> {
    return this.work.ask('intake carry out', { id, at }, person);
  }

  private async markFailed(id: string, during: During, error: unknown): Promise<void> {
    const problem = problemOf(error);
    if (!problem) this.logger.error(error instanceof Error ? error.stack : error);
    await this.mark(id, during, {
      state: 'failed',
      failure: problem?.message ?? 'Something went wrong on our side. Nothing was changed; try again.',
    });
  }

  /** The database may be what failed, so this is tried until it can be said; nobody waits for it. */
  private async mark(
    id: string,
    during: During,
    change: Partial<Pick<Intake, 'state' | 'failure' | 'cancelAsked'>>,
  ): Promise<void> {
    for (let tries = 0; tries < MARK_TRIES && !this.isEnded; tries++) {
      try {
        await this.database.getRepository(Intake).update({ id, state: during }, change);
        return;
      } catch (failure) {
        this.logger.warn(`intake ${id} could not be marked yet: ${String(failure)}`);
        await new Promise((done) => setTimeout(done, MARK_AGAIN_MS).unref());
      }
    }
  }
}
