/** The audit trail. */
import Joi from 'joi';
import { AUDIT_KINDS } from '../audit.js';
import { day, number, text } from './common.js';

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
