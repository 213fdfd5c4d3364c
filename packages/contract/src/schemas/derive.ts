/** Variants. */
import { MAX_NUMBER_LENGTH, PUT_SPOTS, RULE_SPOTS, RULE_SUBJECTS, type NameRule } from '@stem-trace/core';
import Joi from 'joi';
import { number, placePath, reference, text } from './common.js';
import { WISH_KEY, type BeginRequest, type DeriveRequest, type KeepPlanRequest } from '../derive.js';

const subject = Joi.string()
  .valid(...RULE_SUBJECTS)
  .required();
const piece = Joi.string().max(MAX_NUMBER_LENGTH);

export const ruleSchema = Joi.alternatives<NameRule>()
  .conditional('.kind', {
    switch: [
      {
        is: 'replace',
        then: Joi.object({
          kind: Joi.string().required(),
          of: subject,
          where: Joi.string()
            .valid(...RULE_SPOTS)
            .required(),
          from: piece.required(),
          to: piece.allow('').required(),
        }),
      },
      {
        is: 'put',
        then: Joi.object({
          kind: Joi.string().required(),
          of: subject,
          at: Joi.string()
            .valid(...PUT_SPOTS)
            .required(),
          text: piece.required(),
        }),
      },
      {
        is: 'count',
        then: Joi.object({
          kind: Joi.string().required(),
          of: subject,
          run: Joi.string().valid('first', 'last').required(),
          by: Joi.number().integer().required(),
        }),
      },
      {
        is: 'case',
        then: Joi.object({
          kind: Joi.string().required(),
          of: subject,
          to: Joi.string().valid('upper', 'lower').required(),
        }),
        otherwise: Joi.object({
          kind: Joi.string().valid('replace', 'put', 'count', 'case').required(),
        }),
      },
    ],
  })
  .label('rule');

export const carryOverSchema = Joi.object({
  item: reference.required(),
  leave: Joi.array().items(number).max(100_000).default([]),
  decided: Joi.array()
    .items(
      Joi.object({
        number: number.required(),
        field: text(400).required(),
        take: Joi.string().valid('origin', 'copy').required(),
      }),
    )
    .max(100_000)
    .default([]),
});

/** Numbers from an assembly down to a line. */
const chain = Joi.array().items(number).min(1).max(100).required();

export const deriveSchema = Joi.object<DeriveRequest>({
  item: reference.required(),
  copy: Joi.string().valid('all', 'proposed', 'none').default('proposed'),
  alsoCopy: Joi.array().items(number).max(100_000).default([]),
  share: Joi.array().items(number).max(100_000).default([]),
  omit: Joi.array().items(number).max(100_000).default([]),
  swap: Joi.array()
    .items(Joi.object({ from: number.required(), to: reference.required() }))
    .max(10_000)
    .default([]),
  uses: Joi.array()
    .items(
      Joi.object({
        chain,
        occurrences: Joi.array().items(Joi.number().integer().min(1)).max(100_000),
        decision: Joi.string().valid('share', 'copy', 'swap', 'omit').required(),
        to: Joi.when('decision', { is: 'swap', then: reference.required(), otherwise: Joi.forbidden() }),
      }),
    )
    .max(10_000)
    .default([]),
  added: Joi.array()
    .items(
      Joi.object({
        in: chain,
        item: reference.required(),
        name: text(200).allow('').default(''),
        like: number.allow('').default(''),
        at: Joi.array().items(Joi.number().min(-1e9).max(1e9)).length(3).default([0, 0, 0]),
        along: Joi.array()
          .items(Joi.number().min(-1).max(1))
          .length(3)
          .custom((along: number[], helpers) =>
            Math.hypot(...along) < 1e-6
              ? helpers.message({ custom: '"along" has no length, so that nothing can be turned to it.' })
              : along,
          ),
      }),
    )
    .max(1000)
    .default([]),
  values: Joi.array()
    .items(
      Joi.object({
        of: number.allow('').default(''),
        set: Joi.object().pattern(text(120), text(2000).allow('')).required(),
        kinds: Joi.object().pattern(
          text(120),
          Joi.object({
            kind: Joi.string().valid('number', 'yes/no', 'text').required(),
            unit: text(40).allow('').required(),
          }),
        ),
      }),
    )
    .max(1000)
    .default([]),
  titleBlocks: Joi.array()
    .items(
      Joi.object({
        of: number.allow('').default(''),
        field: text(80).trim().min(1).required(),
        text: text(400).allow('').required(),
      }),
    )
    .max(1000)
    .default([]),
  configuration: text(120).allow('').default(''),
  baseline: Joi.string()
    .pattern(/^[1-9]\d{0,17}$/)
    .allow('')
    .default('')
    .messages({ 'string.pattern.base': '{{#label}} must be the id of a baseline' }),
  replace: Joi.array()
    .items(Joi.object({ from: number.required(), to: number.allow('').required() }))
    .max(100)
    .default([]),
  prefix: text(40).allow('').default(''),
  rules: Joi.array().items(ruleSchema).max(100).default([]),
  scheme: text(100).allow('').default(''),
  renamed: Joi.object()
    .pattern(
      Joi.string().max(MAX_NUMBER_LENGTH),
      Joi.object({ number: number.allow(''), name: text(200).allow('') }),
    )
    .default({}),
  place: placePath.allow('').default(''),
  key: text(80)
    .pattern(new RegExp(`^(?!${WISH_KEY})`), `without “${WISH_KEY}” at the beginning`)
    .allow('')
    .default(''),
});

export const beginSchema = Joi.object<BeginRequest>({
  item: reference.required(),
  name: text(200).allow('').default(''),
  scheme: text(100).allow('').default(''),
  place: placePath.allow('').default(''),
});

export const keepPlanSchema = Joi.object<KeepPlanRequest>({
  item: reference.required(),
  name: text(120).min(1).required(),
  isShared: Joi.boolean().default(false),
  request: deriveSchema.required(),
});

export const planIdSchema = Joi.object({
  id: Joi.string()
    .pattern(/^[0-9]{1,18}$/)
    .required(),
});
