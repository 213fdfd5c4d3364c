import type { Schema } from 'joi';
import { ProblemError } from './problem.js';

/** Faults that are said of one input; who sent thousands needs no longer answer. */
const MOST_SAID = 5;
/** Inputs of this size are looked through for further faults after the first one. */
const SMALL = 20_000;

/** Faults as sentences about the input, in the same words whatever the library calls them. */
const SAID = {
  'any.required': '{{#label}} is missing',
  'any.only': '{{#label}} must be one of {{#valids}}',
  'any.unknown': '{{#label}} is not known here',
  'object.unknown': '{{#label}} is not known here',
  'object.base': '{{#label}} must hold named values',
  'object.missing': 'One of {{#peersWithLabels}} must be given',
  'object.xor': 'Only one of {{#peersWithLabels}} may be given',
  'string.base': '{{#label}} must be text',
  'string.empty': '{{#label}} is empty',
  'string.min': '{{#label}} must have at least {{#limit}} characters',
  'string.max': '{{#label}} must have at most {{#limit}} characters',
  'string.guid': '{{#label}} must be an id as it was given out',
  'string.pattern.name': '{{#label}} must be {{#name}}',
  'string.pattern.base': '{{#label}} is not written as it must be',
  'number.base': '{{#label}} must be a number',
  'number.integer': '{{#label}} must be a whole number',
  'number.min': '{{#label}} must be at least {{#limit}}',
  'number.max': '{{#label}} must be at most {{#limit}}',
  'number.unsafe': '{{#label}} is too large a number',
  'boolean.base': '{{#label}} must be true or false',
  'array.base': '{{#label}} must be a list',
  'array.min': '{{#label}} must have at least {{#limit}} entries',
  'array.max': '{{#label}} must have at most {{#limit}} entries',
  'array.unique': '{{#label}} stands there twice',
  'alternatives.match': '{{#label}} has none of the forms that are understood',
  'alternatives.types': '{{#label}} must be {{#types}}',
} as const;

/**
 * Validates and converts what came in at one door.
 *
 * @throws ProblemError INPUT_INVALID with the first few faults
 */
export function validate<T>(schema: Schema<T>, value: unknown): T {
  const input = value ?? {};
  // The first fault ends it, however many there are.
  const { error, value: valid } = schema.validate(input, { abortEarly: true, messages: SAID });
  if (!error) return valid as T;
  const all = isSmall(input)
    ? schema.validate(input, { abortEarly: false, messages: SAID }).error
    : undefined;
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
