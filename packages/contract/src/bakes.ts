import { BAKE_FORMATS, CHANNELS, type BakeRecipe } from '@estela/core';
import Joi from 'joi';
import { answer, contentHash, counter, moment, nothing, object, uuid } from './object.ts';

export const BAKE_STATES = ['queued', 'running', 'done', 'failed', 'cancelled'] as const;
export type BakeState = (typeof BAKE_STATES)[number];

/** Frames of a material as they are computed, or were. Details made of was fixed when it was asked for. */
export interface Bake {
  readonly id: string;
  readonly projectId: string;
  /** Of the material, which may have been deleted since. */
  readonly materialId: string;
  readonly title: string;
  readonly revision: number;
  readonly recipe: BakeRecipe;
  /** SHA-256 of what it depends on: while a material has the same, baking again gives the same. */
  readonly signature: string;
  readonly state: BakeState;
  /** Frames of all outputs that are computed, and how many there are. */
  readonly done: number;
  readonly total: number;
  /** Frames a second, and seconds that are left; null unless it runs. */
  readonly rate: number | null;
  readonly left: number | null;
  /** What it waits for: the server, a worker or Redis; null where it goes on. */
  readonly waits: string | null;
  /** Why it failed. */
  readonly problem: string | null;
  /** Its result, when it is done. */
  readonly file: BakedFile | null;
  readonly version: number;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly finishedAt: string | null;
  readonly updatedAt: string;
}

/** One PNG, or a zip of several. */
export interface BakedFile {
  readonly name: string;
  readonly mime: string;
  /** In bytes. */
  readonly size: number;
  readonly hash: string;
}

const whole = (low: number, high: number): Joi.NumberSchema => Joi.number().integer().min(low).max(high);
const frame = whole(0, 1_000_000);
const outputs = Joi.array()
  .items(Joi.valid(...CHANNELS))
  .min(1)
  .unique();

const recipe = {
  format: Joi.valid(...BAKE_FORMATS)
    .required()
    .label('format'),
  size: Joi.array().items(whole(1, 8192)).length(2).required().label('size'),
  frames: Joi.alternatives(
    Joi.valid('all'),
    Joi.array().items(frame).length(2),
    Joi.object({ list: Joi.array().items(frame).min(1).max(4096).required() }),
    Joi.object({ count: whole(1, 4096).required() }),
  )
    .required()
    .label('frames'),
  every: whole(1, 4096).label('every'),
  outputs: outputs.label('outputs'),
  pack: Joi.string().max(200).label('pack'),
  columns: whole(1, 4096).label('columns'),
  powerOfTwo: Joi.boolean().label('powerOfTwo'),
  bits: Joi.valid(8, 16).label('bits'),
  samples: whole(1, 8).label('samples'),
  bleed: whole(0, 64).label('bleed'),
  spread: Joi.boolean().label('spread'),
  premultiply: Joi.boolean().label('premultiply'),
  linear: outputs.label('linear'),
  normalY: Joi.valid('up', 'down').label('normalY'),
  variant: Joi.string().max(200).label('variant'),
  values: Joi.object().pattern(Joi.string().max(200), Joi.string().max(200)).max(200).label('values'),
};

export const bakeBody = object<BakeRecipe>(recipe);

export const bakeAnswer = answer<Bake>('Bake', {
  id: uuid,
  projectId: uuid,
  materialId: uuid,
  title: Joi.string(),
  revision: counter,
  recipe: bakeBody,
  signature: contentHash,
  state: Joi.valid(...BAKE_STATES),
  done: Joi.number().min(0),
  total: Joi.number().integer().min(1),
  rate: Joi.number().min(0).allow(null),
  left: Joi.number().min(0).allow(null),
  waits: Joi.string().allow(null),
  problem: Joi.string().allow(null),
  file: Joi.alternatives(
    object<BakedFile>({
      name: Joi.string().required(),
      mime: Joi.string().required(),
      size: Joi.number().integer().min(1).required(),
      hash: contentHash.required(),
    }),
    nothing,
  ),
  version: counter,
  createdAt: moment,
  startedAt: moment.allow(null),
  finishedAt: moment.allow(null),
  updatedAt: moment,
});
