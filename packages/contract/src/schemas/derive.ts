/** Variants. */
import { MAX_NUMBER_LENGTH } from '@stem-trace/core';
import Joi from 'joi';
import { number, placePath, reference, text } from './common.js';
import type { DeriveRequest } from '../derive.js';

export const deriveSchema = Joi.object<DeriveRequest>({
  item: reference.required(),
  copy: Joi.string().valid('all', 'proposed', 'none').default('proposed'),
  alsoCopy: Joi.array().items(number).max(100_000).default([]),
  share: Joi.array().items(number).max(100_000).default([]),
  replace: Joi.array()
    .items(Joi.object({ from: number.required(), to: number.allow('').required() }))
    .max(100)
    .default([]),
  prefix: text(40).allow('').default(''),
  renamed: Joi.object()
    .pattern(
      Joi.string().max(MAX_NUMBER_LENGTH),
      Joi.object({ number: number.allow(''), name: text(200).allow('') }),
    )
    .default({}),
  place: placePath.allow('').default(''),
  key: text(80).allow('').default(''),
});
