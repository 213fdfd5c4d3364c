/** Check sheets. */
import Joi from 'joi';
import type {
  AnswerPointRequest,
  ClosePointRequest,
  PassOnRequest,
  RaisePointRequest,
  SeenRequest,
  SheetReference,
  Substitution,
} from '../check.js';
import { day, login, reference, words } from './common.js';

const id = Joi.string()
  .pattern(/^[1-9]\d{0,17}$/)
  .required()
  .messages({ 'string.pattern.base': '{{#label}} must be an id, as a check sheet gives it' });

export const sheetIdSchema = Joi.object<SheetReference>({ id });

export const seenSchema = Joi.object<SeenRequest>({
  sheet: id,
  item: reference.required(),
  shown: Joi.string().hex().length(64).allow('').required(),
});

export const raisePointSchema = Joi.object<RaisePointRequest>({
  sheet: id,
  item: reference.required(),
  words: words.required(),
});

export const answerPointSchema = Joi.object<AnswerPointRequest>({ point: id, words: words.required() });

export const passOnSchema = Joi.object<PassOnRequest>({
  sheet: id,
  to: login.required(),
  reason: words.allow('').default(''),
});

export const substitutionSchema = Joi.object<Substitution>({
  substitute: login.allow('').required(),
  from: day.allow('').default(''),
  to: day.allow('').default(''),
});

export const closePointSchema = Joi.object<ClosePointRequest>({ point: id });
