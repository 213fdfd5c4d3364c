/** Recipes and wish sheets. */
import Joi from 'joi';
import { comment, number, placePath, reference, text } from './common.js';
import { ruleSchema } from './derive.js';
import type { NewRecipeRequest, OrderRequest, SaveRecipeRequest, WishPlanRequest } from '../wish.js';

const expression = text(1000).allow('').default('');
const coordinates = Joi.array().items(Joi.number().min(-1e9).max(1e9)).length(3).default([0, 0, 0]);
const item = number.allow('').default('');

const action = (
  does: readonly string[],
  more: Joi.PartialSchemaMap,
): { is: Joi.Schema; then: Joi.Schema } => ({
  is: Joi.valid(...does),
  then: Joi.object({
    do: Joi.string()
      .valid(...does)
      .required(),
    ...more,
  }),
});

const actionSchema = Joi.alternatives().conditional('.do', {
  switch: [
    action(['swap'], { item: number.required(), to: text(400).required() }),
    action(['omit', 'share', 'copy'], { item: number.required() }),
    action(['count'], {
      item: number.required(),
      in: number.required(),
      count: text(1000).required(),
      step: coordinates,
    }),
    action(['add'], {
      item: text(400).required(),
      in: number.required(),
      like: item,
      at: coordinates,
    }),
    action(['number', 'name'], { item, pattern: text(400).required() }),
    action(['property'], { item, property: text(120).required(), value: text(1000).required() }),
    action(['title block'], { item, field: text(80).required(), pattern: text(400).allow('').required() }),
    { ...action(['configuration'], { name: text(400).required() }), otherwise: Joi.forbidden() },
  ],
});

/** A recipe as it is sent, or as it lies in a file that anybody may have written. */
export const recipeSchema = Joi.object({
  format: Joi.string().valid('stem-trace recipe').required(),
  formatVersion: Joi.number().valid(1).required(),
  of: number.required(),
  wishes: Joi.array()
    .items(
      Joi.object({
        name: text(40).required(),
        label: text(120).allow('').default(''),
        kind: Joi.string().valid('number', 'choice', 'yes/no', 'text').required(),
        unit: text(40).allow('').default(''),
        least: Joi.number().allow(null).default(null),
        most: Joi.number().allow(null).default(null),
        choices: Joi.array().items(text(120)).max(200).default([]),
        otherwise: text(200).allow('').default(''),
      }),
    )
    .max(200)
    .default([]),
  rules: Joi.array()
    .items(Joi.object({ name: text(120).required(), when: expression, then: actionSchema.required() }))
    .max(1000)
    .default([]),
  names: Joi.array().items(ruleSchema).max(100).default([]),
  place: text(1000).allow('').default(''),
  sendsOn: Joi.boolean().default(false),
  examples: Joi.array()
    .items(
      Joi.object({
        name: text(120).required(),
        wishes: Joi.object().pattern(text(120), text(200).allow('')).default({}),
        rules: Joi.array().items(text(120)).max(1000).default([]),
      }),
    )
    .max(200)
    .default([]),
});

export const newRecipeSchema = Joi.object<NewRecipeRequest>({
  item: reference.required(),
  number: number.trim().min(1).required(),
  name: text(500).trim().min(1).required(),
  place: placePath.allow('').default(''),
});

export const saveRecipeSchema = Joi.object<SaveRecipeRequest>({
  item: reference.required(),
  version: text(40).required(),
  recipe: recipeSchema.required(),
  comment,
});

export const checkRecipeSchema = Joi.object({ recipe: recipeSchema.required() });

const wishes = Joi.object()
  .pattern(text(120), Joi.alternatives(text(200).allow(''), Joi.number(), Joi.boolean()))
  .default({});

export const wishPlanSchema = Joi.object<WishPlanRequest>({ recipe: reference.required(), wishes });

export const orderSchema = Joi.object<OrderRequest>({
  recipe: reference.required(),
  sheets: Joi.array()
    .items(Joi.object({ for: text(200).allow('').default(''), wishes }))
    .min(1)
    .max(500)
    .required(),
});

export const sheetsSchema = Joi.object({
  recipe: reference.allow('').default(''),
  batch: text(60).allow('').default(''),
});

export const recipesSchema = Joi.object({ item: reference.allow('').default('') });
