/** Issued files: which one is wanted, and which are made of what. */
import { CAN_BE_ISSUED, ISSUED_OF } from '@stem-trace/core';
import Joi from 'joi';
import type { IssuedFileRequest, IssuedFilesSetting } from '../issued.js';
import { reference } from './common.js';

export const issuedSchema = Joi.object({ item: reference.required() });

export const issuedFromSchema = Joi.object({
  sha256: Joi.string()
    .pattern(/^[0-9a-f]{64}$/)
    .messages({ 'string.pattern.base': '{{#label}} must be the SHA-256 of a file, in 64 hexadecimal digits' })
    .required(),
});

export const issuedFileSchema = Joi.object<IssuedFileRequest>({
  item: reference.required(),
  file: Joi.string()
    .pattern(/^[1-9][0-9]{0,17}$/)
    .messages({ 'string.pattern.base': '{{#label}} must be the id of an issued file' })
    .required(),
});

export const issuedSettingSchema = Joi.object<IssuedFilesSetting>({
  issued: Joi.object(
    Object.fromEntries(
      ISSUED_OF.map((of) => [
        of,
        Joi.array()
          .items(Joi.string().valid(...CAN_BE_ISSUED[of]))
          .unique()
          .required(),
      ]),
    ),
  ).required(),
});
