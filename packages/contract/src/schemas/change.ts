/** Change requests and change orders, as they are written. */
import { CHANGE_KINDS, CHANGE_RELATIONS, COST_KINDS, URGENCIES } from '@stem-trace/core';
import Joi from 'joi';
import type {
  ChangeInput,
  ChangeLineInput,
  ChangeMakesRequest,
  JoinRequestsRequest,
  NewChangeRequest,
  RedlineFileRequest,
  SaveChangeRequest,
  TickTaskRequest,
} from '../change.js';
import { comment, login, number, placePath, reference, text } from './common.js';

const MOST_LINES = 5000;
const MOST_OTHERS = 500;
const day = text(10).allow('').required();
const who = login.allow('').required();
const change = reference.required();

const line = Joi.object<ChangeLineInput>({
  relation: Joi.string()
    .valid(...CHANGE_RELATIONS)
    .required(),
  item: reference.required(),
  note: text(1000).allow('').default(''),
  inStock: text(40).allow('').default(''),
  inWork: text(40).allow('').default(''),
});

const takesEffect = Joi.alternatives()
  .conditional('.kind', {
    switch: [
      { is: 'when released', then: Joi.object({ kind: 'when released' }) },
      { is: 'when used up', then: Joi.object({ kind: 'when used up' }) },
      { is: 'on', then: Joi.object({ kind: 'on', day: text(10).required() }) },
      {
        is: 'from serial',
        then: Joi.object({ kind: 'from serial', product: text(120).required(), serial: text(60).required() }),
      },
    ],
    otherwise: Joi.forbidden(),
  })
  .default({ kind: 'when released' });

const contents = Joi.object<ChangeInput>({
  why: text(20_000).trim().min(1).required(),
  urgency: Joi.string()
    .valid(...URGENCIES)
    .default(URGENCIES[0]),
  owner: login.allow('').default(''),
  until: text(10).allow('').default(''),
  takesEffect,
  lines: Joi.array().items(line).max(MOST_LINES).default([]),
  evidence: Joi.array()
    .items(Joi.object({ says: text(500).allow('').required(), address: text(2000).min(1).required() }))
    .max(MOST_OTHERS)
    .default([]),
  tasks: Joi.array()
    .items(
      Joi.object({
        key: text(40).min(1).required(),
        what: text(1000).trim().min(1).required(),
        who,
        until: day,
      }),
    )
    .max(MOST_OTHERS)
    .default([]),
  costs: Joi.array()
    .items(
      Joi.object({
        kind: Joi.string()
          .valid(...COST_KINDS)
          .required(),
        what: text(500).allow('').required(),
        amount: text(20).min(1).required(),
      }),
    )
    .max(MOST_OTHERS)
    .default([]),
  currency: text(10).trim().allow('').default(''),
});

export const changesSchema = Joi.object({ item: reference.allow('').default('') });

export const changeSchema = Joi.object({ change });

export const newChangeSchema = Joi.object<NewChangeRequest>({
  kind: Joi.string()
    .valid(...CHANGE_KINDS)
    .required(),
  number: number.trim().allow('').default(''),
  name: text(500).trim().min(1).required(),
  place: placePath.allow('').default(''),
  contents: contents.required(),
});

export const saveChangeSchema = Joi.object<SaveChangeRequest>({
  change,
  version: text(40).required(),
  name: text(500).trim().min(1).required(),
  contents: contents.required(),
});

export const tickTaskSchema = Joi.object<TickTaskRequest>({
  change,
  task: text(40).min(1).required(),
  done: Joi.boolean().required(),
});

export const changeMakesSchema = Joi.object<ChangeMakesRequest>({
  change,
  items: Joi.array().items(reference).min(1).max(MOST_LINES).required(),
});

export const joinRequestsSchema = Joi.object<JoinRequestsRequest>({
  change,
  into: reference.required(),
  step: text(60).required(),
  reason: comment,
});

export const redlineFileSchema = Joi.object<RedlineFileRequest>({
  change,
  format: Joi.string().valid('pdf', 'xml').required(),
});
