/** Signing in, people, tokens, rights. */
import { RIGHTS, type Grant } from '@stem-trace/core';
import Joi from 'joi';
import type {
  NewPerson,
  PasswordRequest,
  PersonChange,
  PlaceAccessRequest,
  Preferences,
  TokenRequest,
} from '../access.js';
import { login, password, placePath, text } from './common.js';

export const signInSchema = Joi.object({
  login: text(80).required(),
  password: Joi.string().max(200).required(),
});

export const tokenSchema = Joi.object<TokenRequest>({
  name: text(80).required(),
  scope: Joi.string().valid('read', 'all').default('all'),
  days: Joi.number().integer().min(1).max(3650).allow(null).default(90),
});

export const passwordSchema = Joi.object<PasswordRequest>({
  old: Joi.string().max(200).required(),
  password: password.required(),
});

export const preferencesSchema = Joi.object<Preferences>({
  theme: Joi.string().valid('system', 'light', 'dark').required(),
  density: Joi.string().valid('usual', 'dense').required(),
  pictures: Joi.string().valid('none', 'small', 'large').default('none'),
  dates: Joi.string().valid('said', 'exact').required(),
  mass: Joi.string().valid('kg', 'g', 'lb').required(),
  length: Joi.string().valid('mm', 'in').default('mm'),
});

const role = Joi.string().valid('engineer', 'checker', 'planner', 'viewer', 'administrator');

const personName = text(120).trim().min(1);

const initials = text(3).trim().min(1);

export const newPersonSchema = Joi.object<NewPerson>({
  login: login.required(),
  name: personName.required(),
  initials: initials.required(),
  role: role.required(),
  password: password.required(),
});

export const personChangeSchema = Joi.object<PersonChange>({
  login: login.required(),
  name: personName,
  initials,
  role,
  isActive: Joi.boolean(),
  password,
}).or('name', 'initials', 'role', 'isActive', 'password');

export const entryParameters = Joi.object({ id: Joi.string().guid().required() });

export const entriesSchema = Joi.object({ all: Joi.boolean().default(false) });

export const placeSchema = Joi.object({ place: placePath.required() });

const grantee = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('person').required(), login: login.required() }),
  Joi.object({
    kind: Joi.string().valid('role').required(),
    role: Joi.string().valid('engineer', 'checker', 'planner', 'viewer').required(),
  }),
);

export const placeAccessSchema = Joi.object<PlaceAccessRequest>({
  place: placePath.required(),
  inherits: Joi.boolean().required(),
  grants: Joi.array()
    .items(
      Joi.object({
        to: grantee.required(),
        rights: Joi.array()
          .items(Joi.string().valid(...RIGHTS))
          .unique()
          .min(1)
          .required(),
      }),
    )
    .unique((a: Grant, b: Grant) => JSON.stringify(a.to) === JSON.stringify(b.to))
    .max(200)
    .required(),
});
