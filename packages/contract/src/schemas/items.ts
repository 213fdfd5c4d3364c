/** Items and places: asked about, moved, renamed. */
import Joi from 'joi';
import { AUDIT_KINDS } from '../audit.js';
import type { HistoryRequest } from '../history.js';
import { items, number, placePath, reference, text } from './common.js';

export const itemSchema = Joi.object({ item: reference.required() });

export const belongSchema = Joi.object({ item: reference.required(), model: number.allow('').required() });

export const itemsSchema = Joi.object({ items });

export const createPlaceSchema = Joi.object({ path: placePath.invalid('/').required() });

export const movePlaceSchema = Joi.object({
  from: placePath.required(),
  to: placePath.invalid('/').required(),
});

export const moveItemsSchema = Joi.object({
  items,
  place: placePath.required(),
  along: Joi.boolean().default(false),
});

export const alongSchema = Joi.object({ items, place: placePath.required() });

export const historySchema = Joi.object<HistoryRequest>({
  item: reference.required(),
  below: Joi.boolean().default(false),
  kind: Joi.string().valid(...AUDIT_KINDS),
  before: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{6}Z~[ev]\d{19}$/)
    .messages({ 'string.pattern.base': '{{#label}} must be the id of a row of the history' }),
});

export const renameItemSchema = Joi.object({
  item: reference.required(),
  name: text(200).trim().min(1),
  fileName: text(200)
    .pattern(/^[^<>:"/\\|?*]+$/, 'a file name that every system takes')
    .pattern(/^(?!\.)(?!.*[. ]$)/, 'a file name with no dot in front and no dot or blank at the end'),
}).or('name', 'fileName');
