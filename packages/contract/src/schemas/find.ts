/** Searches, and those that are kept. */
import { MAX_QUERY } from '@stem-trace/core';
import Joi from 'joi';
import { columns, placePath, text } from './common.js';
import { FIND_GROUPS, FIND_LENSES, FIND_SORTS, TABLE_COLUMNS, type SaveRequest } from '../find.js';

const words = text(MAX_QUERY).allow('').default('');

const propertyName = text(80).trim().min(1);

const findLens = Joi.string()
  .valid(...FIND_LENSES)
  .default('recorded');

/** Keys of columns in their order, and `property:NAME`, separated by semicolons; the usual ones where empty. */
const tableColumns = text(3000)
  .empty('')
  .default([...TABLE_COLUMNS])
  .custom((value: string, helpers) => {
    const keys = value.split(';').map((key) => key.trim());
    const wrong = keys.find(
      (key) => !/^property:./.test(key) && !TABLE_COLUMNS.some((known) => known === key),
    );
    return wrong === undefined && keys.length <= 60 ? keys : helpers.error('any.invalid');
  })
  .messages({
    'any.invalid': '{{#label}} must be columns of the table, or property:NAME, separated by semicolons',
  });

const sort = Joi.alternatives(
  Joi.string().valid(...FIND_SORTS),
  text(100).pattern(/^property:./, 'a column, or property:NAME'),
).default('best');

const order = Joi.string().valid('up', 'down').default('up');

const group = Joi.string().valid(...FIND_GROUPS);

export const findSchema = Joi.object({
  words,
  limit: Joi.number().integer().min(1).max(1000).default(100),
  offset: Joi.number().integer().min(0).max(10_000_000).default(0),
  sort,
  order,
  group,
  columns,
  place: placePath,
  lens: findLens,
});

export const findCountsSchema = Joi.object({ words, place: placePath, lens: findLens });

export const findRangesSchema = Joi.object({
  words,
  place: placePath,
  property: propertyName.required(),
  lens: findLens,
});

export const findTableSchema = Joi.object({
  words,
  place: placePath,
  sort,
  order,
  group,
  lens: findLens,
  columns: tableColumns,
  format: Joi.string().valid('csv', 'xlsx').default('csv'),
});

export const saveSchema = Joi.object<SaveRequest>({
  kind: Joi.string().valid('search', 'view').required(),
  name: text(80).trim().min(1).required(),
  address: text(4000)
    .pattern(/^\/(find|trace|change)(\?|$)/, 'an address of Find, Trace or Change')
    .required(),
  isShared: Joi.boolean().default(false),
  tells: Joi.boolean().default(false),
});

export const savedParameters = Joi.object({ id: Joi.string().guid().required() });
