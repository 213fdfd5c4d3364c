/** What is handed out, and the manifest that comes back with it. */
import Joi from 'joi';
import { lens, number, reference, text, uploadPath } from './common.js';
import type { FetchManifest } from '../manifest.js';

export const fetchSchema = Joi.object({
  item: reference.required(),
  lens,
  drawings: Joi.boolean().default(false),
  issued: Joi.boolean().default(false),
});

export const joinSchema = Joi.object({ item: reference.required(), lens });

const sha256 = Joi.string().pattern(/^[0-9a-f]{64}$/, 'a SHA-256');

/** A working copy's manifest, as it comes back from a disk where anybody may have changed it. */
export const manifestSchema = Joi.object<FetchManifest>({
  format: Joi.string().valid('stem-trace working copy').required(),
  formatVersion: Joi.number().valid(1, 2).required(),
  item: number.required(),
  version: text(40).required(),
  lens: text(160).required(),
  drawings: Joi.boolean(),
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
        references: Joi.array()
          .items(
            Joi.object({
              says: Joi.string().max(2000).required(),
              number: number.allow(null).required(),
              version: text(40).allow(null).required(),
            }),
          )
          .max(100_000),
      }),
    )
    .max(100_000)
    .required(),
  issued: Joi.array()
    .items(Joi.object({ path: uploadPath.required(), sha256: sha256.required() }))
    .max(100_000),
  left: Joi.array()
    .items(Joi.object({ file: text(1100), reason: Joi.string().max(2000) }))
    .required(),
});
