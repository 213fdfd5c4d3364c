/** Definitions and schemes of the store. */
import { FIELD_MEANINGS, PROPERTY_KINDS, REVISION_SCHEMES, type TitleBlockRule } from '@stem-trace/core';
import Joi from 'joi';
import { comment, items, text } from './common.js';
import type {
  EditPropertiesRequest,
  ReserveRequest,
  SetClassRequest,
  SetDefinitionRequest,
  SetSchemeRequest,
} from '../properties.js';

export const revisionSchemeSchema = Joi.object({
  scheme: Joi.string()
    .valid(...REVISION_SCHEMES)
    .required(),
  property: text(120).trim().allow(''),
});

export const zoneSchema = Joi.object({ zone: text(60).min(1).required() });

export const titleBlockSchema = Joi.object({
  rules: Joi.array()
    .items(
      Joi.object({
        tag: text(80).trim().min(1).required(),
        means: Joi.string()
          .valid(...FIELD_MEANINGS)
          .required(),
        property: text(80).allow(''),
      }),
    )
    .unique((a: TitleBlockRule, b: TitleBlockRule) => a.tag.toLowerCase() === b.tag.toLowerCase())
    .max(500)
    .required(),
});

export const label = text(80).trim().min(1);

export const setDefinitionSchema = Joi.object<SetDefinitionRequest>({
  name: label.required(),
  kind: Joi.string()
    .valid(...PROPERTY_KINDS)
    .required(),
  unit: text(30).allow('').default(''),
  choices: Joi.array().items(label).unique().max(200).default([]),
});

export const setClassSchema = Joi.object<SetClassRequest>({
  name: label.required(),
  properties: Joi.array()
    .items(Joi.object({ name: label.required(), isRequired: Joi.boolean().required() }))
    .unique('name')
    .max(200)
    .required(),
});

export const editPropertiesSchema = Joi.object<EditPropertiesRequest>({
  items,
  set: Joi.object().pattern(label, Joi.string().max(2000).allow('')).required(),
  class: text(80).allow(''),
  comment,
  checkOut: Joi.boolean().default(false),
});

export const setSchemeSchema = Joi.object<SetSchemeRequest>({
  name: label.required(),
  prefix: text(40).allow('').default(''),
  digits: Joi.number().integer().min(1).max(12).required(),
  suffix: text(20).allow('').default(''),
  class: text(80).allow('').default(''),
});

export const reserveSchema = Joi.object<ReserveRequest>({
  scheme: label.required(),
  count: Joi.number().integer().min(1).max(10_000).default(1),
});
