import { Injectable } from '@nestjs/common';
import type { IntakeResult } from '@stem-trace/contract';
import type { IntakePlan } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { JobProgress, type JobRef } from '../queue/job-progress.js';
import { counted, record } from '../trail/record.js';
import { StoreTurn } from '../store/turn.js';
import { IntakePlanner } from './intake-planner.js';
import { resultOf } from './intake-view.js';
import { writeIntake } from './intake-writer.js';

export type CarriedOut =
  | { readonly kind: 'done'; readonly result: IntakeResult }
  /** Another process has carried it out meanwhile. */
  | { readonly kind: 'elsewhere' };

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
   * @param job that this is, where somebody may ask how far it is and for its end
   * @throws ProblemError INTAKE_CYCLE, BUSY, JOB_CANCELLED; nothing is written then
   */
  async carryOut(id: string, person: Person, { at, job }: { at: Date; job?: JobRef }): Promise<CarriedOut> {
    const progress = new JobProgress(this.database, job);
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
        onProgress: (done) => progress.goOn(done, plan.rows.length),
      });
      await this.finish(manager, { intake, plan, person, at });
      const result = resultOf(intake, { files, plan, written });
      await manager.getRepository(Intake).update({ id }, { state: 'done', result });
      return { kind: 'done', result };
    });
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
