/** Making and changing bills. */
import Joi from 'joi';
import { ALL_RULES, BUILD_ROW_KINDS, COLUMN_TYPES, ROLES, type BuildColumn } from '@stem-trace/core';
import type {
  CarryRequest,
  NewBillRequest,
  ReadinessSetting,
  SavedBuildRow,
  SaveBillRequest,
} from '../build.js';
import { comment, lens, number, placePath, reference, text } from './common.js';

const MOST_ROWS = 20_000;
const MOST_COLUMNS = 60;
const id = text(1000);

export const billsSchema = Joi.object({ item: reference.allow('').default('') });

export const billReferenceSchema = Joi.object({ bill: reference.required() });

export const itemUnderLensSchema = Joi.object({ item: reference.required(), lens });

export const newBillSchema = Joi.object<NewBillRequest>({
  item: reference.required(),
  lens,
  number: number.trim().min(1).required(),
  name: text(500).trim().min(1).required(),
  place: placePath.allow('').default(''),
});

const amountSchema = Joi.object({
  value: text(40).allow('').required(),
  unit: text(20).allow('').required(),
  basis: Joi.string().valid('each', 'batch', 'fixed', 'as required').required(),
  scrap: text(40),
  step: text(40),
  role: Joi.string().valid(...ROLES),
});

const columnSchema = Joi.object<BuildColumn>({
  id: text(80).min(1).required(),
  name: text(80).trim().min(1).required(),
  type: Joi.string()
    .valid(...COLUMN_TYPES)
    .required(),
  unit: text(20).allow('').required(),
  choices: Joi.array().items(text(120).trim().min(1)).max(200).required(),
  isRequired: Joi.boolean().required(),
});

const rowSchema = Joi.object<SavedBuildRow>({
  id: id.min(1).required(),
  level: Joi.number().integer().min(1).max(100).required(),
  kind: Joi.string()
    .valid(...BUILD_ROW_KINDS)
    .required(),
  number: number.allow('').required(),
  name: text(500).allow('').required(),
  version: text(40).allow('').required(),
  amount: amountSchema.required(),
  find: text(20).allow('').required(),
  designators: text(100_000).allow('').required(),
  from: id,
  isPhantom: Joi.boolean().required(),
  isWhole: Joi.boolean().required(),
  values: Joi.object().pattern(text(80), text(500).allow('')).max(MOST_COLUMNS).required(),
});

export const saveBillSchema = Joi.object<SaveBillRequest>({
  bill: reference.required(),
  version: text(40).required(),
  columns: Joi.array().items(columnSchema).max(MOST_COLUMNS).required(),
  rows: Joi.array().items(rowSchema).max(MOST_ROWS).required(),
  reasons: Joi.object()
    .pattern(
      text(200),
      Joi.object({ difference: text(500).required(), reason: text(500).trim().min(1).required() }),
    )
    .max(MOST_ROWS)
    .required(),
  outputs: Joi.array().items(reference.allow('')).max(10).required(),
  comment,
});

export const carrySchema = Joi.object<CarryRequest>({
  bill: reference.required(),
  version: text(40).required(),
  to: text(40).required(),
  decisions: Joi.object().pattern(text(2000), Joi.string().valid('mine', 'theirs')).max(MOST_ROWS).required(),
  comment,
});

export const readinessSchema = Joi.object<ReadinessSetting>({
  rules: Joi.array()
    .items(Joi.string().valid(...ALL_RULES))
    .unique()
    .required(),
});
