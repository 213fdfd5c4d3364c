import Joi from 'joi';
import { JOB_KINDS } from '../jobs.js';
import { reference } from './common.js';

export const jobSchema = Joi.object({
  kind: Joi.string()
    .valid(...JOB_KINDS)
    .required(),
  id: Joi.string().guid().required(),
});

export const proofFileSchema = Joi.object({
  item: reference.required(),
  format: Joi.string().valid('json', 'pdf').default('json'),
});

export const proofSchema = Joi.object({ item: reference.required(), again: Joi.boolean().default(false) });
