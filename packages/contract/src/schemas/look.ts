/** Looks at scenes. */
import Joi from 'joi';
import {
  COLOURED_BY,
  MESH_FORMS,
  MOST_MESHES,
  type ChangeSceneRequest,
  type KeepSceneRequest,
  type SceneLook,
} from '../look.js';
import { lens, reference, words } from './common.js';

const places = Joi.string()
  .pattern(/^\d{1,6}(,\d{1,6})*$/, 'places of uses in a scene, with commas between')
  .max(20_000);
const count = Joi.number().integer().min(1).required();

export const meshSchema = Joi.object({
  item: reference.required(),
  form: Joi.string()
    .valid(...MESH_FORMS)
    .default('plain'),
});

export const meshesSchema = Joi.object({
  items: Joi.array().items(reference.required()).min(1).max(MOST_MESHES).unique().required(),
});

export const nearSchema = Joi.object({
  ...{ item: reference.required(), lens, of: places.required(), to: places, nodes: count },
  within: Joi.number().min(0).max(1e6).default(0),
});

export const overlapsSchema = Joi.object({
  ...{ item: reference.required(), lens, of: places, to: places, nodes: count },
  /** Names of classes that are left out, with commas between. */
  without: Joi.string().max(1000).allow('').default(''),
});

export const overlapsAskSchema = overlapsSchema.keys({ again: Joi.boolean().default(false) });

const coordinate = Joi.number().min(-1e9).max(1e9).unsafe().required();
const point = Joi.array().ordered(coordinate, coordinate, coordinate).length(3);
/** Numbers on the way to a use. */
const way = Joi.string().max(4000).allow('');
const ways = Joi.array().items(way).max(20_000).required();

const look = Joi.object<SceneLook>({
  lens,
  camera: Joi.object({
    ...{ from: point.required(), at: point.required(), up: point.required() },
    isParallel: Joi.boolean().required(),
  }).required(),
  hidden: ways,
  selected: ways,
  isGlass: Joi.boolean().required(),
  sections: Joi.array()
    .items(Joi.object({ point: point.required(), normal: point.required() }))
    .max(3)
    .required(),
  colouredBy: Joi.string()
    .valid(...COLOURED_BY)
    .required(),
  spread: Joi.object({
    amount: Joi.number().min(0).max(10).required(),
    levels: Joi.number().integer().min(1).max(100).required(),
  }).required(),
  measures: Joi.array()
    .items(
      Joi.object({
        words: words.max(1000).required(),
        spots: Joi.array().items(point).max(10).required(),
      }),
    )
    .max(200)
    .required(),
  note: words.allow('').required(),
}).required();

const name = words.min(1).max(120).required();
const id = Joi.string()
  .pattern(/^[1-9]\d{0,17}$/)
  .required();

export const keepSceneSchema = Joi.object<KeepSceneRequest>({
  item: reference.required(),
  name,
  look,
}).required();

export const changeSceneSchema = Joi.object<ChangeSceneRequest>({ id, name, look }).required();

export const sceneIdSchema = Joi.object<{ id: string }>({ id }).required();
