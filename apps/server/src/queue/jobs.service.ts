import { Injectable } from '@nestjs/common';
import type { JobKind, JobState, JobView } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { QUEUE_SCHEMA } from '../database/queue-schema.js';
import { json, number, orNull, readRows, text, time, word, type Columns } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { JobOrder } from './job.js';
import { JobQueue } from './job-queue.js';

export interface JobRequest {
  readonly kind: JobKind;
  readonly id: string;
}

interface JobListRow {
  readonly kind: JobKind;
  readonly id: string;
  readonly order: JobOrder<JobKind>;
  readonly by: string | null;
  readonly state: 'created' | 'retry' | 'active' | 'completed' | 'cancelled' | 'failed';
  readonly problem: string | null;
  readonly done: number;
  readonly total: number;
  readonly tries: number;
  readonly askedAt: Date;
  readonly endedAt: Date | null;
}

const MOST = 200;

/** Of what is made in great numbers only what is not done is worth a look. */
const JOBS = `
  SELECT j.name AS kind, j.id, j.data AS "order", p.name AS by, j.state::text AS state, j.output->'problem'->>'detail' AS problem,
         coalesce(g.done_count, 0) AS done, coalesce(g.total_count, 0) AS total,
         CASE WHEN j.started_on IS NULL THEN 0 ELSE j.retry_count + 1 END AS tries,
         j.created_on AS "askedAt", j.completed_on AS "endedAt"
  FROM ${QUEUE_SCHEMA}.job j LEFT JOIN job_progress g ON g.kind = j.name AND g.id = j.id
  LEFT JOIN person p ON p.id = (j.data->>'personId')::bigint`;

const JOB_COLUMNS: Columns<JobListRow> = {
  kind: word<JobListRow['kind']>(),
  id: text,
  order: json<JobListRow['order']>(),
  by: orNull(text),
  state: word<JobListRow['state']>(),
  problem: orNull(text),
  done: number,
  total: number,
  tries: number,
  askedAt: time,
  endedAt: orNull(time),
};

/** Jobs as people see them: their own, and all of them for administrators. */
@Injectable()
export class JobsService {
  constructor(
    private readonly database: DataSource,
    private readonly queue: JobQueue,
  ) {}

  /** The newest first. */
  async list(person: Person): Promise<JobView[]> {
    const rows = await readRows(
      this.database,
      JOB_COLUMNS,
      `${JOBS} WHERE ($1::text IS NULL OR j.data->>'personId' = $1)
         AND NOT (j.state = 'completed' AND j.name IN ('mesh', 'shape') AND NOT coalesce(j.output ? 'problem', false))
       ORDER BY j.created_on DESC, j.id LIMIT ${MOST}`,
      [person.role === 'administrator' ? null : person.id],
    );
    return rows.map(viewOf);
  }

  /** @throws ProblemError JOB_UNKNOWN, also for what others asked for */
  async view({ kind, id }: JobRequest, person: Person): Promise<JobView> {
    return viewOf(await this.find({ kind, id }, person));
  }

  /** Asks for the end of a job, which comes at its next step. What came to an end already stays as it is. */
  async cancel(request: JobRequest, person: Person): Promise<void> {
    const { kind, id } = await this.find(request, person);
    await this.queue.cancel(kind, id);
  }

  /** Has a job that failed or was ended done once more; any other stays as it is. */
  async retry(request: JobRequest, person: Person): Promise<void> {
    const row = await this.find(request, person);
    const state = stateOf(row);
    if (state === 'failed' || state === 'cancelled') await this.queue.restart(row.kind, row.id, row.order);
  }

  private async find({ kind, id }: JobRequest, person: Person): Promise<JobListRow> {
    const [row] = await readRows(this.database, JOB_COLUMNS, `${JOBS} WHERE j.name = $1 AND j.id = $2`, [
      kind,
      id,
    ]);
    if (!row || (person.role !== 'administrator' && row.order.personId !== person.id))
      throw new ProblemError(
        'JOB_UNKNOWN',
        'There is no such work of yours. It may be long over; look again.',
      );
    return row;
  }
}

function stateOf({ state, problem }: JobListRow): JobState {
  if (state === 'created' || state === 'retry') return 'waiting';
  if (state === 'active') return 'running';
  if (state === 'completed') return problem === null ? 'done' : 'failed';
  return state;
}

function viewOf(row: JobListRow): JobView {
  const { kind, id, order, by, done, total, tries, askedAt, endedAt, problem } = row;
  const state = stateOf(row);
  return {
    ...{ kind, id, by, state, tries },
    about: order.about,
    progress: { done, total },
    askedAt: askedAt.toISOString(),
    endedAt: endedAt?.toISOString() ?? null,
    failure: state === 'failed' ? (problem ?? 'It was begun too often without coming to an end.') : null,
  };
}
