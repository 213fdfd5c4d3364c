import { Injectable } from '@nestjs/common';
import type { IntakeView } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { number, readRows } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import { IntakePlanner } from './intake-planner.js';
import { expectedCounts, NOTHING, resultOf, rowViews } from './intake-view.js';

/** What a sheet would do, worked out anew at each look. */
@Injectable()
export class IntakeReview {
  constructor(
    private readonly database: DataSource,
    private readonly planner: IntakePlanner,
  ) {}

  /** While something is under way only how far it is; the review when it waits for somebody. */
  async view(id: string, person: Person): Promise<IntakeView> {
    const intake = await findSheet(this.database, id, person);
    const about = await aboutSheet(this.database, intake);
    if (!awaitsReview(intake)) return about;
    const { manager } = this.database;
    const files = await this.planner.filesOf(intake, manager);
    const plan = await this.planner.plan(intake, { files, person }, manager);
    return {
      ...about,
      rows: rowViews(plan, files, intake.manifest),
      expected: resultOf(intake, { files, plan, written: expectedCounts(plan) }),
    };
  }
}

export function awaitsReview({ state }: Intake): boolean {
  return state === 'collecting' || state === 'failed';
}

/** A sheet without its rows. */
export async function aboutSheet(database: DataSource, intake: Intake): Promise<IntakeView> {
  return {
    id: intake.id,
    state: intake.state,
    place: intake.place,
    prefix: intake.prefix,
    workingCopy: intake.manifest ? { item: intake.manifest.item, version: intake.manifest.version } : null,
    comment: intake.comment,
    progress: await progressOf(database, intake.id),
    result: intake.result,
    failure: intake.failure,
    rows: [],
    expected: intake.result ?? NOTHING,
  };
}

/** How far the job is that unpacks a sheet or carries it out; of nothing where there is none. */
async function progressOf(database: DataSource, id: string): Promise<IntakeView['progress']> {
  const [row] = await readRows<IntakeView['progress']>(
    database,
    { done: number, total: number },
    `SELECT done_count AS done, total_count AS total FROM job_progress WHERE id = $1 AND kind IN ('intake', 'unpack')`,
    [id],
  );
  return row ?? { done: 0, total: 0 };
}

/** @throws ProblemError INTAKE_UNKNOWN also for what belongs to somebody else */
export async function findSheet(
  database: Pick<DataSource, 'getRepository'>,
  id: string,
  { id: createdBy }: Person,
): Promise<Intake> {
  const valid = /^[0-9a-f-]{36}$/.test(id);
  const intake = valid ? await database.getRepository(Intake).findOneBy({ id, createdBy }) : null;
  if (!intake)
    throw new ProblemError('INTAKE_UNKNOWN', 'There is no such intake sheet of yours. Start a new one.');
  return intake;
}
