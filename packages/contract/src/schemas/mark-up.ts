/** Mark-up. */
import Joi from 'joi';
import { reference, words } from './common.js';
import {
  MARK_KINDS,
  MARK_SPOTS,
  MARK_TONES,
  type ChangeMarkRequest,
  type NewMarkRequest,
  type PrintRequest,
  type RemarkRequest,
  type SettleMarkRequest,
} from '../mark-up.js';

const id = Joi.string()
  .pattern(/^[1-9]\d{0,17}$/)
  .required();
const coordinate = Joi.number().min(-1e9).max(1e9).unsafe();
const spot = Joi.array().items(coordinate.required()).min(2).max(3);
const spots = Joi.array().items(spot.required()).min(1).max(MARK_SPOTS.pen[1]);
const tone = Joi.string().valid(...MARK_TONES);

export const newMarkSchema = Joi.object<NewMarkRequest>({
  item: reference,
  sheet: Joi.string().max(255).allow('').required(),
  kind: Joi.string()
    .valid(...MARK_KINDS)
    .required(),
  tone: tone.required(),
  spots: spots.required(),
  words: words.allow('').default(''),
})
  .custom((value: NewMarkRequest, helpers) => {
    const [least, most] = MARK_SPOTS[value.kind];
    if (value.spots.length < least || value.spots.length > most)
      return helpers.message({
        custom: `A ${value.kind} has ${least === most ? String(least) : `${least} to ${most}`} spots, not ${value.spots.length}.`,
      });
    const isFlat = value.sheet !== 'model';
    if (value.spots.some((each) => (each.length === 2) !== isFlat))
      return helpers.message({ custom: 'On a model spots have three coordinates, elsewhere two.' });
    // Lettering without letters is nothing that anybody could see.
    if (value.kind === 'text' && value.words === '')
      return helpers.message({ custom: 'A text says something.' });
    return value;
  })
  .required();

export const changeMarkSchema = Joi.object<ChangeMarkRequest>({
  id,
  tone,
  spots,
  words: words.allow(''),
})
  .or('tone', 'spots', 'words')
  .required();

export const remarkSchema = Joi.object<RemarkRequest>({ id, words: words.required() }).required();

export const settleMarkSchema = Joi.object<SettleMarkRequest>({
  id,
  isSettled: Joi.boolean().required(),
}).required();

export const markIdSchema = Joi.object<{ id: string }>({ id }).required();

export const printSchema = Joi.object<PrintRequest>({
  item: reference.required(),
  sheet: Joi.string().max(255).allow('').default(''),
  scale: Joi.number().greater(0).max(1000),
  marks: Joi.boolean().default(false),
}).required();
