/** What the server accepts, as Joi schemas. Unknown members are refused everywhere. */
import {
  FIELD_MEANINGS,
  MAX_QUERY,
  LIFECYCLE,
  PROPERTY_KINDS,
  REVISION_SCHEMES,
  RIGHTS,
  type Grant,
  type TitleBlockRule,
} from '@stem-trace/core';
import Joi from 'joi';
import type { NewPerson, PersonChange, PlaceAccessRequest, TokenRequest } from './access.js';
import { FIND_GROUPS, FIND_SORTS, type SaveRequest } from './find.js';
import { AUDIT_KINDS } from './audit.js';
import type { EffectRequest } from './net.js';
import type { FetchManifest } from './manifest.js';
import type {
  EditPropertiesRequest,
  ReserveRequest,
  SetClassRequest,
  SetDefinitionRequest,
  SetSchemeRequest,
} from './properties.js';
import { isDay, isLensText } from './reference.js';
import type { CorrectionRequest, DeriveRequest, IntakeRequest } from './types.js';

// eslint-disable-next-line no-control-regex -- control characters are what is refused
const CONTROL = /[\u0000-\u001f\u007f]/;

const text = (max: number): Joi.StringSchema =>
  Joi.string().max(max).pattern(CONTROL, { invert: true, name: 'no control characters' });
const number = text(80);
const reference = text(120);

const lens = Joi.string()
  .default('recorded')
  .custom((value: string, helpers) => (isLensText(value) ? value : helpers.error('any.invalid')))
  .messages({
    'any.invalid':
      '{{#label}} must be recorded, newest, released or a day such as 2026-03-31, and may end in the name of a configuration: newest in NAME',
  });

export const placePath = text(1000)
  .pattern(/^\/([^/]+(\/[^/]+)*)?$/, 'a path such as /Projects/Tide station')
  .pattern(/\/\.{1,2}(\/|$)/, { invert: true, name: 'without . and ..' });

/** Relative path of an uploaded file: no climbing, no drive, no backslash, at most 32 folders. */
export const uploadPath = text(1000)
  .pattern(/^[^/\\]+(\/[^/\\]+){0,32}$/, 'a relative path with forward slashes')
  .pattern(/(^|\/)\.{1,2}(\/|$)|^[A-Za-z]:/, { invert: true, name: 'without . and .. and drive letters' });

export const signInSchema = Joi.object({
  login: text(80).required(),
  password: Joi.string().max(200).required(),
});

const words = text(MAX_QUERY).allow('').default('');
const propertyName = text(80).trim().min(1);

/** Names of properties, separated by semicolons. */
const columns = text(1000)
  .empty('')
  .default([])
  .custom((value: string) =>
    value
      .split(';')
      .map((name) => name.trim())
      .filter(Boolean)
      .slice(0, 20),
  );

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
});

export const findCountsSchema = Joi.object({ words, place: placePath });

export const findRangesSchema = Joi.object({ words, place: placePath, property: propertyName.required() });

export const findTableSchema = Joi.object({
  words,
  place: placePath,
  sort,
  order,
  columns,
  format: Joi.string().valid('csv', 'xlsx').default('csv'),
});

export const saveSchema = Joi.object<SaveRequest>({
  kind: Joi.string().valid('search', 'view').required(),
  name: text(80).trim().min(1).required(),
  address: text(4000)
    .pattern(/^\/(find|trace)(\?|$)/, 'an address of Find or Trace')
    .required(),
  isShared: Joi.boolean().default(false),
  tells: Joi.boolean().default(false),
});

export const savedParameters = Joi.object({ id: Joi.string().guid().required() });

export const itemSchema = Joi.object({ item: reference.required() });

export const belongSchema = Joi.object({ item: reference.required(), model: number.allow('').required() });

export const structureSchema = Joi.object({
  item: reference.required(),
  lens,
  all: Joi.boolean().default(false),
  tops: Joi.boolean().default(false),
  limit: Joi.number().integer().min(1).max(10_000).default(1000),
  offset: Joi.number().integer().min(0).max(10_000_000).default(0),
  filter: text(100).allow('').default(''),
});

const levels = Joi.number().integer().min(0).max(100).default(0);

export const netSchema = Joi.object({
  item: reference.required(),
  lens,
  side: Joi.string().valid('made', 'used').required(),
  levels,
  papers: Joi.boolean().default(false),
});

export const configurationsSchema = Joi.object({ item: reference.required() });

export const effectSchema = Joi.object<EffectRequest>({
  items: Joi.array().items(reference).min(1).max(1000).required(),
  lens,
  levels,
});

export const commonSchema = Joi.object({
  items: Joi.array().items(reference).min(2).max(100).required(),
  lens,
});

export const compareSchema = Joi.object({
  from: reference.required(),
  to: reference.required(),
  net: Joi.boolean().default(false),
  lens,
});

export const fetchSchema = Joi.object({
  item: reference.required(),
  lens,
  drawings: Joi.boolean().default(false),
});

const sha256 = Joi.string().pattern(/^[0-9a-f]{64}$/, 'a SHA-256');

/** A working copy's manifest, as it comes back from a disk where anybody may have changed it. */
export const manifestSchema = Joi.object<FetchManifest>({
  format: Joi.string().valid('stem-trace working copy').required(),
  formatVersion: Joi.number().valid(1).required(),
  item: number.required(),
  version: text(40).required(),
  lens: text(160).required(),
  root: uploadPath.required(),
  rewritten: Joi.number().integer().min(0).required(),
  files: Joi.array()
    .items(
      Joi.object({
        path: uploadPath.required(),
        sha256: sha256.required(),
        stored: sha256.required(),
        items: Joi.array()
          .items(Joi.object({ number: number.required(), version: text(40).required() }))
          .required(),
      }),
    )
    .max(100_000)
    .required(),
  left: Joi.array()
    .items(Joi.object({ file: text(1100), reason: Joi.string().max(2000) }))
    .required(),
});

export const intakeSchema = Joi.object<IntakeRequest>({
  manifest: manifestSchema,
  place: placePath.default('/'),
  prefix: text(40).allow('').default(''),
});

export const archiveSchema = Joi.object({
  place: placePath.default('/'),
  prefix: text(40).allow('').default(''),
});

export const uploadSchema = Joi.object({ path: uploadPath.required() });

export const correctionSchema = Joi.object<CorrectionRequest>({
  corrections: Joi.object()
    .pattern(
      Joi.string().max(1100),
      Joi.object({
        number: number.allow(''),
        name: text(200).allow(''),
        leaveOut: Joi.boolean(),
        belongsTo: number.allow(''),
      }),
    )
    .required(),
  overwrite: Joi.array().items(Joi.string().max(1100)).max(10_000),
});

const comment = Joi.string().max(2000).allow('').default('');

export const carryOutSchema = Joi.object({ comment, letGo: Joi.boolean().default(true) });

const items = Joi.array().items(reference).min(1).max(10_000).required();

export const itemsSchema = Joi.object({ items });

export const checkOutSchema = Joi.object({ items, reason: comment });

export const breakHoldSchema = Joi.object({
  item: reference.required(),
  reason: Joi.string().trim().min(1).max(2000).required(),
});

export const stepSchema = Joi.object({
  items,
  step: Joi.string()
    .valid(...LIFECYCLE.map(({ name }) => name))
    .required(),
  reason: comment,
});

export const alignSchema = Joi.object({ items, start: text(6).allow('').default('') });

export const bringBackSchema = Joi.object({ item: reference.required(), comment });

export const watchSchema = Joi.object({
  item: reference,
  place: placePath,
  watch: Joi.boolean().required(),
}).xor('item', 'place');

export const deriveSchema = Joi.object<DeriveRequest>({
  item: reference.required(),
  copy: Joi.string().valid('all', 'proposed', 'none').default('proposed'),
  alsoCopy: Joi.array().items(number).max(100_000).default([]),
  share: Joi.array().items(number).max(100_000).default([]),
  replace: Joi.array()
    .items(Joi.object({ from: number.required(), to: number.allow('').required() }))
    .max(100)
    .default([]),
  prefix: text(40).allow('').default(''),
  renamed: Joi.object()
    .pattern(Joi.string().max(80), Joi.object({ number: number.allow(''), name: text(200).allow('') }))
    .default({}),
  place: placePath.allow('').default(''),
  key: text(80).allow('').default(''),
});

export const tokenSchema = Joi.object<TokenRequest>({
  name: text(80).required(),
  scope: Joi.string().valid('read', 'all').default('all'),
  days: Joi.number().integer().min(1).max(3650).allow(null).default(90),
});

const login = text(80).pattern(/^[a-z0-9][a-z0-9._-]*$/, 'small letters, digits, dots and dashes');
const role = Joi.string().valid('engineer', 'checker', 'planner', 'viewer', 'administrator');
const password = Joi.string().min(10).max(200);
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

export const revisionSchemeSchema = Joi.object({
  scheme: Joi.string()
    .valid(...REVISION_SCHEMES)
    .required(),
});

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

const label = text(80).trim().min(1);

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

export const createPlaceSchema = Joi.object({ path: placePath.invalid('/').required() });

export const movePlaceSchema = Joi.object({
  from: placePath.required(),
  to: placePath.invalid('/').required(),
});

export const moveItemsSchema = Joi.object({ items, place: placePath.required() });

export const renameItemSchema = Joi.object({
  item: reference.required(),
  name: text(200).trim().min(1),
  fileName: text(200)
    .pattern(/^[^<>:"/\\|?*]+$/, 'a file name that every system takes')
    .pattern(/^\.|[. ]$/, { invert: true, name: 'no dot in front and no dot or blank at the end' }),
}).or('name', 'fileName');

/** A day of the calendar, UTC. */
const day = text(10)
  .custom((value: string, helpers) => (isDay(value) ? value : helpers.error('any.invalid')))
  .messages({ 'any.invalid': '{{#label}} must be a day such as 2026-03-31' });

const auditFilters = {
  item: number,
  person: text(80),
  kind: Joi.string().valid(...AUDIT_KINDS),
  since: day,
  until: day,
};

/** `before` is the id of the last row of the page before. */
export const auditSchema = Joi.object({
  ...auditFilters,
  before: Joi.string().pattern(/^\d{1,18}$/, 'the id of a row'),
  limit: Joi.number().integer().min(1).max(1000).default(100),
});

export const auditFileSchema = Joi.object(auditFilters);
