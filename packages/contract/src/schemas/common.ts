/** What several requests are made of. */
import { isDay, MAX_NUMBER_LENGTH } from '@stem-trace/core';
import Joi from 'joi';
import { isLensText } from '../reference.js';

// Patterns say what is taken, never what is refused: so they mean the same as JSON Schema.
// eslint-disable-next-line no-control-regex -- control characters are what is refused
const NO_CONTROL = /^[^\u0000-\u001f\u007f]*$/;

export const text = (max: number): Joi.StringSchema =>
  Joi.string().max(max).pattern(NO_CONTROL, 'text without control characters');

export const number = text(MAX_NUMBER_LENGTH);

/** A number, perhaps with a version. */
export const reference = text(MAX_NUMBER_LENGTH + 40);

export const lens = Joi.string()
  .default('recorded')
  .custom((value: string, helpers) => (isLensText(value) ? value : helpers.error('any.invalid')))
  .messages({
    'any.invalid':
      '{{#label}} must be recorded, newest, released, a day such as 2026-03-31, baseline and its id, effective and a day, or effective 120 of NUMBER, and may end in the name of a configuration: newest in NAME',
  });

export const placePath = text(1000)
  .pattern(/^\/([^/]+(\/[^/]+)*)?$/, 'a path such as /Projects/Tide station')
  .pattern(/^(?!.*\/\.{1,2}(\/|$))/, 'a path without . and ..');

/**
 * Relative path of an uploaded file: no climbing, at most 32 folders. What some system could not hold in a name is kept
 * under another (`portableName`).
 */
export const uploadPath = Joi.string()
  .max(1000)
  // eslint-disable-next-line no-control-regex -- the one character that no path holds
  .pattern(/^[^\u0000]*$/, 'text without a null character')
  .pattern(/^[^/]+(\/[^/]+){0,32}$/, 'a relative path with forward slashes')
  .pattern(
    /^(?!.*(^|[/\\])\.{1,2}([/\\]|$))(?![A-Za-z]:[/\\])/s,
    'a path without . and .. and drive letters',
  );

export const levels = Joi.number().integer().min(0).max(100).default(0);

export const comment = Joi.string().max(2000).allow('').default('');

export const items = Joi.array().items(reference).min(1).max(10_000).required();

export const login = text(80).pattern(
  /^[a-z0-9][a-z0-9._-]*$/,
  'made of small letters, digits, dots and dashes',
);

export const password = Joi.string().min(10).max(200);

/** A day of the calendar, UTC. */
export const day = text(10)
  .custom((value: string, helpers) => (isDay(value) ? value : helpers.error('any.invalid')))
  .messages({ 'any.invalid': '{{#label}} must be a day such as 2026-03-31' });

/** Names of properties, separated by semicolons. */
export const columns = text(4000)
  .empty('')
  .default([])
  .custom((value: string) =>
    value
      .split(';')
      .map((name) => name.trim())
      .filter(Boolean)
      .slice(0, 40),
  );

/** What people write: nothing that a database cannot hold, nor signs that turn a line around. */
export const words = Joi.string()
  .max(2000)
  .pattern(/^[^\p{Cs}\0\u202A-\u202E\u2066-\u2069]*$/u, 'plain text')
  .trim();
