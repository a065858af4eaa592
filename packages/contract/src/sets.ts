import { COPY_LIMIT, SHAPES, SUBDIVISION_LIMIT, type Placing } from '@estela/core';
import Joi from 'joi';
import { answer, counter, moment, nothing, object, oneLine, oneOf, uuid } from './object.ts';

/** One mesh on a set, with its copies. */
export interface SetItem extends Placing {
  readonly id: string;
  /** A shape by its name, or a mesh of the project by its id. */
  readonly mesh: string;
  /** Quads across a shape; null for what suits it. */
  readonly subdivisions: number | null;
  /** A material of the project by its id; null for none yet. */
  readonly material: string | null;
  /** null for the base. */
  readonly variant: string | null;
  /** Seconds that a whole turn about its upright takes; 0 for none, below 0 the other way. */
  readonly turning: number;
  /** Seconds that each copy is behind the one before it. */
  readonly delay: number;
  /** Lies over the whole view, in front of everything, instead of on a mesh. */
  readonly overlay: boolean;
}

/** Meshes placed together on a Stage. */
export interface SetBody {
  readonly name: string;
  readonly items: readonly SetItem[];
  readonly scene: { readonly environment: string; readonly backdrop: string; readonly exposure: number };
  /** Where the camera stands and what it looks at, in metres; null for the usual. */
  readonly view: { readonly from: readonly number[]; readonly at: readonly number[] } | null;
}

export interface StoredSet extends SetBody {
  readonly id: string;
  readonly projectId: string;
  readonly version: number;
  readonly updatedAt: string;
}

const metres = Joi.number().min(-1000).max(1000);
const vector = Joi.array().items(metres.required()).length(3);
const word = Joi.string().max(40);
const count = Joi.number().integer().min(1).max(COPY_LIMIT).required();

const copies = oneOf<NonNullable<SetItem['copies']>>(
  {
    row: { count, step: vector.required() },
    curve: {
      count,
      points: Joi.array().items(Joi.array().items(metres.required()).length(2)).min(2).max(24).required(),
      closed: Joi.boolean().required(),
    },
  },
  nothing,
).required();

const item = object<SetItem>({
  id: word.required(),
  mesh: Joi.alternatives(Joi.valid(...Object.keys(SHAPES)), uuid).required(),
  subdivisions: Joi.number().integer().min(1).max(SUBDIVISION_LIMIT).allow(null).required(),
  material: uuid.allow(null).required(),
  variant: Joi.string().max(200).allow(null).required(),
  position: vector.required(),
  turn: Joi.array().items(Joi.number().min(-3600).max(3600).required()).length(3).required(),
  scale: Joi.number().min(0.001).max(1000).required(),
  copies,
  turning: Joi.number().min(-3600).max(3600).required(),
  delay: Joi.number().min(-60).max(60).required(),
  overlay: Joi.boolean().required(),
});

const body = {
  name: oneLine.required(),
  items: Joi.array().items(item).max(100).unique('id').required(),
  scene: Joi.object({
    environment: word.required(),
    backdrop: word.required(),
    exposure: Joi.number().min(-8).max(8).required(),
  }).required(),
  view: Joi.object({ from: vector.required(), at: vector.required() }).allow(null).required(),
};
export const setBody = object<SetBody>(body);
export const setAnswer = answer<StoredSet>('Set', {
  ...body,
  id: uuid,
  projectId: uuid,
  version: counter,
  updatedAt: moment,
});
