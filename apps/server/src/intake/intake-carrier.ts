import { Injectable } from '@nestjs/common';
import type { IntakeResult } from '@stem-trace/contract';
import type { IntakePlan } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { outsideTransactions } from '../database/store-data-source.js';
import { announce } from '../feed/feed.js';
import { counted, record } from '../trail/record.js';
import { StoreTurn } from '../store/turn.js';
import { IntakePlanner } from './intake-planner.js';
import { resultOf } from './intake-view.js';
import { writeIntake } from './intake-writer.js';

export type CarriedOut =
  | { readonly kind: 'done'; readonly result: IntakeResult }
  /** Somebody asked for the end while it was carried out; nothing was written. */
  | { readonly kind: 'cancelled' }
  /** Another process has carried it out meanwhile. */
  | { readonly kind: 'elsewhere' };

class Cancelled extends Error {}

/** Carries a sheet out in one transaction. */
@Injectable()
export class IntakeCarrier {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly planner: IntakePlanner,
  ) {}

  /**
   * @param at the time that the versions get
   * @throws ProblemError INTAKE_CYCLE, BUSY; nothing is written then
   */
  async carryOut(id: string, person: Person, at: Date): Promise<CarriedOut> {
    try {
      return await this.write(id, person, at);
    } catch (error) {
      if (error instanceof Cancelled) return { kind: 'cancelled' };
      throw error;
    }
  }

  private async write(id: string, person: Person, at: Date): Promise<CarriedOut> {
    return this.turn.take(async (manager) => {
      const intake = await manager.getRepository(Intake).findOneByOrFail({ id });
      if (intake.state !== 'carrying out') return { kind: 'elsewhere' };
      const files = await this.planner.filesOf(intake, manager);
      const plan = await this.planner.planToWrite(intake, { files, person }, manager);
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
      return { kind: 'done', result };
    });
  }

  /** Says how far it is, outside the transaction so that others see it; stops where that was asked for. */
  private async goOn(id: string, done: number, total: number): Promise<void> {
    // The one second connection: only one intake at a time is written, and this never waits for its transaction.
    const [row]: [{ cancelled: boolean }[], number] = await outsideTransactions(() =>
      this.database.query(
        'UPDATE intake SET done_count = $2, total_count = $3 WHERE id = $1 RETURNING cancel_asked AS cancelled',
        [id, done, total],
      ),
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
}
