/** Holding, checking in, steps of the lifecycle. */
import Joi from 'joi';
import type { HoldAnswerRequest, HoldAskRequest } from '../custody.js';
import { comment, day, items, login, placePath, reference, text } from './common.js';

export const holdReasonSchema = Joi.object({ items, reason: comment });

export const checkOutSchema = Joi.object({ items, reason: comment, change: reference.allow('').default('') });

export const askSchema = Joi.object<HoldAskRequest>({ item: reference.required(), reason: comment });

export const holdAnswerSchema = Joi.object<HoldAnswerRequest>({
  id: Joi.string()
    .pattern(/^[0-9]{1,18}$/)
    .required()
    .messages({ 'string.pattern.base': '{{#label}} must be the id of a request, as a notice gives it' }),
  letGo: Joi.boolean().required(),
  says: comment,
});

export const breakHoldSchema = Joi.object({
  item: reference.required(),
  reason: Joi.string().trim().min(1).max(2000).required(),
});

export const stepSchema = Joi.object({
  items,
  step: text(30).min(1).required(),
  reason: comment,
  below: Joi.boolean().default(false),
  leavesOut: Joi.boolean().default(false),
  for: Joi.array().items(login).unique().max(20),
  until: day,
  password: Joi.string().max(200),
  shown: Joi.object().pattern(Joi.string().max(200), Joi.string().hex().length(64)).max(5000),
  zone: text(60).pattern(/^[A-Za-z0-9_+-]+(\/[A-Za-z0-9_+-]+)*$/, 'a time zone such as Europe/Oslo'),
});

export const offeredSchema = Joi.object({ items });

export const alignSchema = Joi.object({
  items,
  start: text(6).allow('').default(''),
  property: text(80).trim().min(1),
});

export const bringBackSchema = Joi.object({ item: reference.required(), comment });

export const watchSchema = Joi.object({
  item: reference,
  place: placePath,
  watch: Joi.boolean().required(),
}).xor('item', 'place');
