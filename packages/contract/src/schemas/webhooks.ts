/** Programs that are told what happens. */
import Joi from 'joi';
import { AUDIT_KINDS } from '../audit.js';
import type { WebhookDraft } from '../webhooks.js';
import { text } from './common.js';

export const webhookSchema = Joi.object<WebhookDraft>({
  name: text(80).trim().min(1).required(),
  address: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .max(2000)
    .required(),
  kinds: Joi.array()
    .items(Joi.string().valid(...AUDIT_KINDS))
    .max(AUDIT_KINDS.length)
    .unique()
    .required(),
});

export const webhookIdSchema = Joi.object({
  id: Joi.string()
    .pattern(/^[1-9]\d{0,17}$/)
    .required()
    .messages({ 'string.pattern.base': '{{#label}} must be the id of a webhook' }),
});
