/** Diagrams of lifecycles, as an administrator changes or brings them in. */
import {
  GLYPHS,
  LANES,
  LIFECYCLE_ROLES,
  REVISION_SCHEMES,
  RIGHTS,
  SET_TO,
  type Diagram,
} from '@stem-trace/core';
import Joi from 'joi';
import { SCOPE_KINDS, type LifecycleDraft, type MoveOnRequest } from '../lifecycle.js';

import { comment, login, placePath, text } from './common.js';

/** Of a state or a step: what a search, a sentence and a button can hold. */
const name = text(30)
  .trim()
  .pattern(/^[\p{L}\p{N}]+([ -][\p{L}\p{N}]+)*$/u, 'letters and digits, with spaces or hyphens between');

const byRole = Joi.object({
  kind: 'role',
  role: Joi.string()
    .valid(...LIFECYCLE_ROLES)
    .required(),
});
const byPerson = Joi.object({ kind: 'person', id: login.required(), name: text(120).required() });
const byRight = Joi.object({
  kind: 'right',
  right: Joi.string()
    .valid(...RIGHTS)
    .required(),
});
const bySender = Joi.object({ kind: 'sender' });

const who = Joi.array()
  .items(
    Joi.alternatives().conditional('.kind', {
      switch: [
        { is: 'role', then: byRole },
        { is: 'person', then: byPerson },
        { is: 'right', then: byRight },
        { is: 'sender', then: bySender },
      ],
      otherwise: Joi.forbidden(),
    }),
  )
  .max(20)
  .required();

const state = Joi.object({
  name: name.required(),
  lane: Joi.string()
    .valid(...LANES)
    .required(),
  isReleased: Joi.boolean().required(),
  glyph: Joi.string()
    .valid(...GLYPHS)
    .required(),
});

/** A member that one kind of consequence has, and the others have not. */
function forKind(kind: string, schema: Joi.StringSchema): Joi.AlternativesSchema {
  return Joi.when('kind', { is: kind, then: schema.required(), otherwise: Joi.forbidden() });
}

const step = Joi.object({
  name: name.required(),
  done: text(60).required(),
  from: Joi.array().items(name).min(1).max(20).required(),
  to: name.required(),
  who,
  notByAuthors: Joi.boolean().required(),
  asksReason: Joi.boolean().required(),
  isOverUnreleased: Joi.boolean().required(),
  due: Joi.object({ days: Joi.number().integer().min(1).max(365).required(), lead: who }),
  signatures: Joi.object({
    count: Joi.number().integer().min(1).max(10).required(),
    of: who.min(1),
    isInOrder: Joi.boolean().required(),
  }),
  then: Joi.array()
    .items(
      Joi.object({
        kind: Joi.string().valid('supersede', 'tell', 'issue', 'revise', 'set', 'webhook').required(),
        property: forKind('set', text(120).min(1)),
        text: forKind('set', text(200).allow('')),
        name: forKind('webhook', text(80).min(1)),
        to: Joi.when('kind', {
          switch: [
            { is: 'supersede', then: name.required() },
            {
              is: 'set',
              then: Joi.string()
                .valid(...SET_TO)
                .required(),
            },
          ],
          otherwise: Joi.forbidden(),
        }),
        who: Joi.when('kind', { is: 'tell', then: who, otherwise: Joi.forbidden() }),
      }),
    )
    .max(20)
    .required(),
});

const diagram = Joi.object<Diagram>({
  name: name.required(),
  first: name.required(),
  revisions: Joi.string().valid(...REVISION_SCHEMES),
  states: Joi.array().items(state).min(1).max(20).required(),
  steps: Joi.array().items(step).max(60).required(),
});

const id = Joi.string()
  .pattern(/^[0-9]{1,18}$/)
  .messages({ 'string.pattern.base': '{{#label}} must be the id of a lifecycle' });

const scopes = Joi.array()
  .items(
    Joi.object({
      kind: Joi.string()
        .valid(...SCOPE_KINDS)
        .allow(null)
        .required(),
      class: text(80).min(1).allow(null).required(),
      place: placePath.allow(null).required(),
    }),
  )
  .max(100)
  .required();

export const lifecycleIdSchema = Joi.object({ id: id.required() });

export const lifecycleSchema = Joi.object<LifecycleDraft>({
  id: id.allow('').required(),
  diagram: diagram.required(),
  scopes,
  comment,
});

export const moveOnSchema = Joi.object<MoveOnRequest>({
  id: id.required(),
  moves: Joi.array()
    .items(Joi.object({ from: name.required(), to: name.required() }))
    .max(20)
    .unique('from')
    .required(),
});
