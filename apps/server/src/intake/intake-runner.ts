import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import type { IntakeResult } from '@stem-trace/contract';
import type { IntakePlan } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { counted, record } from '../notices/record.js';
import { ProblemError } from '../problems/problem.js';
import { takeTurn } from '../store/store-writer.js';
import { IntakePlanner } from './intake-planner.js';
import { resultOf } from './intake-view.js';
import { writeIntake } from './intake-writer.js';
import { Unpacker } from './unpacker.js';

const MARK_TRIES = 120;
const MARK_AGAIN_MS = 1000;

/** Somebody asked for the end while it was carried out; nothing is written then. */
class Cancelled extends Error {}

/** Carries out sheets, each in one transaction, and goes on with those that a stopped server left. */
@Injectable()
export class IntakeRunner implements OnApplicationBootstrap {
  private readonly logger = new Logger('intake');

  constructor(
    private readonly database: DataSource,
    private readonly planner: IntakePlanner,
    private readonly unpacker: Unpacker,
  ) {}

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
      const result = await this.carryOutAt(id, person, new Date());
      if (result) {
        this.logger.log(
          `intake ${id}: ${result.items} items, ${result.versions} versions, ${result.links} links`,
        );
      }
    } catch (error) {
      await this.markFailed(id, 'carrying out', error);
    }
  }

  /**
   * Carries out and waits for the end.
   *
   * @param at the time that the versions get
   * @returns undefined where another process has carried it out meanwhile
   */
  async carryOutAt(id: string, person: Person, at: Date): Promise<IntakeResult | undefined> {
    return this.database.transaction(async (manager) => {
      await takeTurn(manager);
      const intake = await manager.getRepository(Intake).findOneByOrFail({ id });
      if (intake.state !== 'carrying out') return undefined;
      const files = await this.planner.filesOf(intake, manager);
      const plan = await this.planner.plan(intake, { files, person }, manager);
      const written = await writeIntake(manager, {
        plan,
        place: intake.place,
        comment: intake.comment,
        authorId: person.id,
        at,
        files: new Map(files.map((file) => [file.path, file])),
        onProgress: (done) => this.goOn(id, done, plan.rows.length),
      });
      await this.finish(manager, { intake, plan, person, at });
      const result = resultOf(intake, { files, plan, written });
      await manager.getRepository(Intake).update({ id }, { state: 'done', result });
      return result;
    });
  }

  /** Says how far it is, outside the transaction so that others see it; stops where that was asked for. */
  private async goOn(id: string, done: number, total: number): Promise<void> {
    const [row]: [{ cancelled: boolean }[], number] = await this.database.query(
      'UPDATE intake SET done_count = $2, total_count = $3 WHERE id = $1 RETURNING cancel_asked AS cancelled',
      [id, done, total],
    );
    if (row[0]?.cancelled) throw new Cancelled();
  }

  /** Trail, notices and holds of what came in. */
  private async finish(
    manager: EntityManager,
    { intake, plan, person, at }: { intake: Intake; plan: IntakePlan; person: Person; at: Date },
  ): Promise<void> {
    const changed = plan.rows.flatMap(({ status }) => (status.kind === 'newVersion' ? [status.of] : []));
    const kind = intake.manifest ? 'check in' : 'intake';
    const about = intake.comment === '' ? '' : `: ${intake.comment}`;
    await record(manager, [
      ...changed.map(
        (item) =>
          ({
            personId: person.id,
            kind,
            itemId: item.id,
            says: `${person.name} checked in ${item.number}${about}`,
            at,
          }) as const,
      ),
      {
        personId: person.id,
        kind,
        itemId: null,
        says: `${person.name} brought in ${counted(plan.rows.length, 'item')}${about}`,
        detail: { intake: intake.id },
        at,
      },
    ]);
    if (intake.manifest && intake.letGo) {
      await manager.query('DELETE FROM hold WHERE person_id = $1 AND item_id = ANY($2::bigint[])', [
        person.id,
        changed.map(({ id }) => id),
      ]);
    }
    await announce(manager, 'items', 'holds', 'notices');
  }

  /** The database may be what failed, so this is tried until it can be said; nobody waits for it. */
  private async markFailed(id: string, during: 'carrying out' | 'unpacking', error: unknown): Promise<void> {
    const isExpected = error instanceof ProblemError || error instanceof Cancelled;
    if (!isExpected) this.logger.error(error instanceof Error ? error.stack : error);
    const change =
      error instanceof Cancelled
        ? ({ state: 'collecting', cancelAsked: false } as const)
        : ({
            state: 'failed',
            failure:
              error instanceof ProblemError
                ? error.message
                : 'Something went wrong on our side. Nothing was changed; try again.',
          } as const);
    for (let tries = 0; tries < MARK_TRIES; tries++) {
      try {
        await this.database.getRepository(Intake).update({ id, state: during }, change);
        return;
      } catch (failure) {
        this.logger.warn(`intake ${id} could not be marked as failed yet: ${String(failure)}`);
        await new Promise((done) => setTimeout(done, MARK_AGAIN_MS));
      }
    }
  }
}
