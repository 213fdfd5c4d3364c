/** How people want to be told. */
import Joi from 'joi';
import { NOTICE_KINDS, NOTICE_WAYS, type NoticeSetting } from '../notices.js';

const way = Joi.string()
  .valid(...NOTICE_WAYS)
  .required();

export const noticeSettingSchema = Joi.object<NoticeSetting>({
  // RFC 5321 4.5.3.1: at most 254 characters in all.
  mail: Joi.string()
    .email({ tlds: false, minDomainSegments: 1 })
    .max(254)
    .allow('')
    .required()
    .messages({ 'string.email': '{{#label}} must be a mail address, as name@example.org' }),
  ways: Joi.object(Object.fromEntries(NOTICE_KINDS.map((kind) => [kind, way]))).required(),
});
