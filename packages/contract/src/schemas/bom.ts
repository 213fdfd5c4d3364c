/** Changing what BOMs say. */
import Joi from 'joi';
import { LEVEL_KINDS, LIST_FIELDS, type TableMapping } from '@stem-trace/core';
import type {
  AlternateRequest,
  BillEditRequest,
  ColumnSet,
  EffectivityRequest,
  MapListRequest,
} from '../bom.js';
import { comment, day, reference, text } from './common.js';

const MOST_ROWS = 10_000;

export const billEditSchema = Joi.object<BillEditRequest>({
  item: reference.required(),
  version: text(20).required(),
  rows: Joi.array()
    .items(
      Joi.object({
        position: Joi.number().integer().min(0).max(10_000_000).required(),
        find: text(40).allow(''),
        designators: text(100_000).allow(''),
        amount: text(80).allow(''),
      }),
    )
    .min(1)
    .max(MOST_ROWS)
    .required(),
  comment,
  checkOut: Joi.boolean().default(false),
});

export const alternateSchema = Joi.object<AlternateRequest>({
  item: reference.required(),
  other: reference.required(),
  onlyIn: reference.allow('').default(''),
  rank: Joi.number().integer().min(1).max(1000).default(1),
  note: text(500).allow('').default(''),
  from: day.allow(null).default(null),
  to: day.allow(null).default(null),
});

const spans = text(500).allow('').default('');

export const effectivitySchema = Joi.object<EffectivityRequest>({
  item: reference.required(),
  rows: Joi.array()
    .items(
      Joi.object({
        position: Joi.number().integer().min(0).max(10_000_000).required(),
        planned: spans,
        actual: spans,
      }),
    )
    .unique('position')
    .min(1)
    .max(200)
    .required(),
});

const setName = text(80).trim().min(1);

export const columnSetSchema = Joi.object<Omit<ColumnSet, 'by'>>({
  name: setName.required(),
  columns: Joi.array().items(text(120)).min(1).max(60).required(),
  isShared: Joi.boolean().default(false),
});

export const columnSetNameSchema = Joi.object({ name: setName.required() });

const column = Joi.number().integer().min(0).max(500);

const mappingSchema = Joi.object<TableMapping>({
  sheet: text(200).allow('').required(),
  header: Joi.number().integer().min(-1).max(10_000).required(),
  decimal: Joi.string().valid('.', ',').required(),
  levels: Joi.string()
    .valid(...LEVEL_KINDS)
    .required(),
  columns: Joi.object(Object.fromEntries(LIST_FIELDS.map((field) => [field, column]))).required(),
  further: Joi.array()
    .items(Joi.object({ at: column.required(), name: text(80).trim().min(1).required() }))
    .max(40)
    .required(),
});

export const listNameSchema = Joi.object({ name: text(200).trim().min(1).required() });

export const listIdSchema = Joi.object({ id: text(64).required() });

export const mapListSchema = Joi.object<MapListRequest>({
  mapping: mappingSchema.required(),
  keepAs: text(80).trim().allow('').default(''),
});
