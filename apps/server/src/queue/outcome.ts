/** What a job that came to an end left, as the queue keeps it. */
import type { JobKind, Problem } from '@stem-trace/contract';
import type PgBoss from 'pg-boss';
import { ProblemError } from '../problems/problem.js';
import type { JobOrder } from './job.js';
import { cancelled } from './job-progress.js';

export type JobRow = PgBoss.JobWithMetadata<JobOrder<JobKind>>;

export type Output =
  { readonly outcome: unknown } | { readonly problem: Pick<Problem, 'code' | 'detail' | 'details'> } | null;

export const OUR_FAULT = 'Something went wrong on our side. Nothing was changed; try again.';

/** How a job ended; undefined while it has not. */
export function endOf({ state, output }: JobRow): 'done' | 'failed' | 'cancelled' | undefined {
  if (state === 'cancelled' || state === 'failed') return state;
  if (state !== 'completed') return undefined;
  return isProblem(output as Output) ? 'failed' : 'done';
}

/** @throws ProblemError that it ended with; JOB_CANCELLED */
export function outcomeOf({ state, output }: JobRow): unknown {
  if (state === 'cancelled') throw cancelled();
  const left = output as Output;
  if (state !== 'completed' || left === null) throw new ProblemError('INTERNAL', OUR_FAULT);
  if (isProblem(left)) throw new ProblemError(left.problem.code, left.problem.detail, left.problem.details);
  return left.outcome;
}

function isProblem(output: Output): output is Extract<Output, { problem: unknown }> {
  return output !== null && 'problem' in output;
}
