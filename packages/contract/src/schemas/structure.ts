/** Questions about structure. */
import Joi from 'joi';
import { lens, levels, reference, text } from './common.js';
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

export const compareSchema = Joi.object({
  from: reference.required(),
  to: reference.required(),
  net: Joi.boolean().default(false),
  lens,
});
