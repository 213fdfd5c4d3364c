/** Questions about structure. */
import { PAIR_KEYS } from '@stem-trace/core';
import Joi from 'joi';
import { isLensText } from '../reference.js';
import { columns, lens, levels, reference, text } from './common.js';
import type { EffectRequest } from '../net.js';

export const structureSchema = Joi.object({
  item: reference.required(),
  lens,
  all: Joi.boolean().default(false),
  tops: Joi.boolean().default(false),
  limit: Joi.number().integer().min(1).max(10_000).default(1000),
  offset: Joi.number().integer().min(0).max(10_000_000).default(0),
  filter: text(100).allow('').default(''),
});

export const netSchema = Joi.object({
  item: reference.required(),
  lens,
  side: Joi.string().valid('made', 'used').required(),
  levels,
  papers: Joi.boolean().default(false),
});

export const configurationsSchema = Joi.object({ item: reference.required() });

export const effectSchema = Joi.object<EffectRequest>({
  items: Joi.array().items(reference).min(1).max(1000).required(),
  lens,
  levels,
});

export const commonSchema = Joi.object({
  items: Joi.array().items(reference).min(2).max(100).required(),
  lens,
});

const pairBy = text(100)
  .custom((value: string, helpers) => {
    const keys = value.split(',').map((key) => key.trim());
    return keys.every((key) => (PAIR_KEYS as readonly string[]).includes(key))
      ? keys
      : helpers.error('any.only');
  })
  .messages({ 'any.only': `{{#label}} must be some of ${PAIR_KEYS.join(', ')}, parted by commas` });

const MOST_BY_HAND = 1000;

/** Pairs of ways, `[["FM-100","FM-200"],["FM-300",""]]`: rows that are a pair, or have none. */
const hand = text(200_000)
  .allow('')
  .default('')
  .custom((value: string, helpers) => {
    if (value === '') return [];
    try {
      const pairs: unknown = JSON.parse(value);
      const isPair = (pair: unknown): pair is [string, string] =>
        Array.isArray(pair) && pair.length === 2 && pair.every((way) => typeof way === 'string');
      if (Array.isArray(pairs) && pairs.length <= MOST_BY_HAND && pairs.every(isPair))
        return pairs.map(([from, to]) => ({ from, to }));
    } catch {
      // Said below.
    }
    return helpers.error('any.invalid');
  })
  .messages({
    'any.invalid': '{{#label}} must be a list of pairs of ways in JSON, such as [["FM-100","FM-200"]]',
  });

const otherLens = Joi.string()
  .custom((value: string, helpers) => (isLensText(value) ? value : helpers.error('any.invalid')))
  .messages({
    'any.invalid':
      '{{#label}} must be recorded, newest, released, a day such as 2026-03-31, baseline and its id, effective and a day, or effective 120 of NUMBER',
  });

export const compareSchema = Joi.object({
  from: reference.required(),
  to: reference.required(),
  net: Joi.boolean().default(false),
  lens,
  fromLens: otherLens,
  toLens: otherLens,
  by: pairBy,
  hand,
  columns,
});

export const compareFileSchema = compareSchema.append({
  format: Joi.string().valid('csv', 'xlsx', 'pdf').required(),
  /** Whether rows that are the same stand there too. */
  same: Joi.boolean().default(false),
});

export const compareThreeSchema = Joi.object({
  /** What both come from; found by lineage where empty. */
  base: reference.allow('').default(''),
  one: reference.required(),
  other: reference.required(),
  lens,
  columns,
});

export const billSchema = Joi.object({
  item: reference.required(),
  lens,
  flat: Joi.boolean().default(false),
  columns,
});

export const billFileSchema = Joi.object({
  item: reference.required(),
  lens,
  flat: Joi.boolean().default(false),
  columns,
  format: Joi.string().valid('csv', 'xlsx', 'pdf', 'cyclonedx', 'xml').required(),
  sheets: Joi.string().valid('one', 'levels').default('one'),
});
