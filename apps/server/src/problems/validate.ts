import type { Schema } from 'joi';
import { ProblemError } from './problem.js';

/** Faults that are said of one input; who sent thousands needs no longer answer. */
const MOST_SAID = 5;
/** Inputs of this size are looked through for further faults after the first one. */
const SMALL = 20_000;

/**
 * Validates and converts what came in at one door.
 *
 * @throws ProblemError INPUT_INVALID with the first few faults
 */
export function validate<T>(schema: Schema<T>, value: unknown): T {
  const input = value ?? {};
  // The first fault ends it, however many there are.
  const { error, value: valid } = schema.validate(input, { abortEarly: true });
  if (!error) return valid as T;
  const all = isSmall(input) ? schema.validate(input, { abortEarly: false }).error : undefined;
  const faults = (all ?? error).details.slice(0, MOST_SAID).map(({ message }) => message);
  throw new ProblemError('INPUT_INVALID', `${faults.join('. ')}. Nothing was changed.`, faults);
}

/** By a look at no more than so many members and characters. */
function isSmall(value: unknown): boolean {
  let left = SMALL;
  const waiting: unknown[] = [value];
  for (
    let next = waiting.pop();
    left > 0 && (next !== undefined || waiting.length > 0);
    next = waiting.pop()
  ) {
    left -= typeof next === 'string' ? next.length + 1 : 1;
    if (typeof next !== 'object' || next === null) continue;
    const members = Object.values(next as Record<string, unknown>);
    left -= members.length;
    if (left > 0) waiting.push(...members);
  }
  return left > 0;
}
