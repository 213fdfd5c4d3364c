/** Sheets of what comes in. */
import Joi from 'joi';
import { comment, number, placePath, text, uploadPath } from './common.js';
import { manifestSchema } from './fetch.js';
import type { CorrectionRequest, IntakeRequest } from '../intake.js';

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
        references: Joi.object().pattern(Joi.string().max(2000), number.allow('')),
      }),
    )
    .required(),
  overwrite: Joi.array().items(Joi.string().max(1100)).max(10_000),
});

export const carryOutSchema = Joi.object({ comment, letGo: Joi.boolean().default(true) });

export const sheetParameters = Joi.object({ id: text(64).required() });

/** A file of a sheet. */
export const stagedSchema = Joi.object({ id: text(64).required(), path: uploadPath.required() });
