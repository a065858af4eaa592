import type { BakeRecipe, FlowDrawing, PathDrawing, StepRecipe } from '@estela/core';
import Joi from 'joi';
import { bakeBody } from './bakes.ts';
import { answer, contentHash, counter, moment, nothing, object, oneLine, oneOf, uuid } from './object.ts';

/** Where one channel of a packed source came from. */
export interface PickRecipe {
  readonly source?: string;
  readonly channel: 0 | 1 | 2 | 3;
  readonly invert: boolean;
  readonly constant: number;
}

/** How a source was made, so that it can be edited or made again. */
export type Recipe =
  | { readonly kind: 'path'; readonly drawing: PathDrawing }
  | { readonly kind: 'flow'; readonly drawing: FlowDrawing }
  | {
      readonly kind: 'step';
      readonly materialId: string;
      readonly signature: string;
      /** Of the signature; 1 where it is not told. */
      readonly version?: number;
      readonly bake: StepRecipe;
    }
  | {
      readonly kind: 'bake';
      readonly materialId: string;
      readonly signature: string;
      readonly version: number;
      readonly bake: BakeRecipe;
    }
  | {
      readonly kind: 'pack';
      readonly width: number;
      readonly height: number;
      readonly bits: 8 | 16;
      readonly picks: readonly PickRecipe[];
    }
  | {
      readonly kind: 'tile';
      readonly from: string;
      readonly method: 'blend' | 'patch';
      readonly band: number;
      readonly keepContrast?: boolean;
      /** Both where it is not said. */
      readonly axes?: 'u' | 'v' | 'both';
    }
  | { readonly kind: 'channel'; readonly from: string; readonly channel: 0 | 1 | 2 | 3 }
  | { readonly kind: 'sheet'; readonly from: string; readonly columns: number; readonly rows: number };

/** A picture of a project; its bytes have an address of their own. */
export interface Source {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly mime: string;
  readonly width: number;
  readonly height: number;
  /** Bits a channel. */
  readonly bits: 8 | 16;
  /** Of the file, in bytes. */
  readonly size: number;
  readonly hash: string;
  readonly recipe: Recipe | null;
  readonly version: number;
  readonly updatedAt: string;
}

/** The fields that come with a source's file, or with the hash of one that is stored. */
export interface SourceBody {
  readonly name?: string;
  readonly hash?: string;
  /** null takes the recipe away. */
  readonly recipe?: Recipe | null;
}

const coordinate = Joi.number().min(-4).max(4).required();
const size = Joi.number().integer().min(16).max(4096).required();
const side = Joi.number().integer().min(1).max(8192).required();
const text = Joi.string().max(400);
const point = { x: coordinate, y: coordinate };

const recipe = oneOf<Recipe>(
  {
    path: {
      drawing: Joi.object({
        points: Joi.array()
          .max(500)
          .items(Joi.object({ ...point, width: Joi.number().min(0).max(2).required() }))
          .required(),
        closed: Joi.boolean().required(),
        size,
      }).required(),
    },
    flow: {
      drawing: Joi.object({
        strokes: Joi.array()
          .max(2000)
          .items(
            Joi.object({
              points: Joi.array().max(2000).items(Joi.object(point)).required(),
              radius: Joi.number().min(0).max(1).required(),
              strength: Joi.number().min(0).max(1).required(),
            }),
          )
          .required(),
        smooth: Joi.number().min(0).max(0.5).required(),
        size,
      }).required(),
    },
    step: {
      materialId: uuid.required(),
      signature: text.required(),
      version: Joi.number().integer().min(1),
      bake: Joi.object({
        step: text.required(),
        width: side,
        height: side,
        time: Joi.number().min(0).required(),
        variant: text,
        encoding: Joi.valid('color', 'data', 'normal').required(),
        bits: Joi.valid(8, 16).required(),
      }).required(),
    },
    bake: {
      materialId: uuid.required(),
      signature: text.required(),
      version: Joi.number().integer().min(1).required(),
      bake: bakeBody.required(),
    },
    pack: {
      width: side,
      height: side,
      bits: Joi.valid(8, 16).required(),
      picks: Joi.array()
        .length(4)
        .items(
          Joi.object({
            source: text,
            channel: Joi.number().integer().min(0).max(3).required(),
            invert: Joi.boolean().required(),
            constant: Joi.number().min(0).max(1).required(),
          }),
        )
        .required(),
    },
    tile: {
      from: text.required(),
      method: Joi.valid('blend', 'patch').required(),
      band: Joi.number().min(0).max(0.5).required(),
      keepContrast: Joi.boolean(),
      axes: Joi.valid('u', 'v', 'both'),
    },
    channel: { from: text.required(), channel: Joi.number().integer().min(0).max(3).required() },
    sheet: {
      from: text.required(),
      columns: Joi.number().integer().min(1).required(),
      rows: Joi.number().integer().min(1).required(),
    },
  },
  // Says which kinds there are; where it is described, nothing is of it.
  Joi.object({ kind: Joi.valid('path', 'flow', 'step', 'bake', 'pack', 'tile', 'channel', 'sheet').required() }).meta({
    swagger: { not: {} },
  }),
);

/** A form's fields are text: there the recipe comes as JSON. */
const recipeField = Joi.any().when(Joi.string(), {
  then: Joi.string().custom((text: string, helpers): unknown => {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      return helpers.error('any.invalid');
    }
    const result = recipe.allow(null).label('recipe').validate(value);
    return result.error ? helpers.message({ custom: result.error.message }) : result.value;
  }),
  otherwise: Joi.any().when(nothing, { then: nothing, otherwise: recipe }),
});

export const newSource = object<SourceBody & { readonly name: string }>({
  name: oneLine.required(),
  hash: contentHash,
  recipe: recipeField,
});
export const changedSource = object<SourceBody>({ name: oneLine, hash: contentHash, recipe: recipeField });

export const sourceAnswer = answer<Source>('Source', {
  id: uuid,
  projectId: uuid,
  name: oneLine,
  mime: Joi.string(),
  width: Joi.number().integer().min(1),
  height: Joi.number().integer().min(1),
  bits: Joi.valid(8, 16),
  size: Joi.number().integer().min(0),
  hash: contentHash,
  recipe: Joi.alternatives(nothing, recipe),
  version: counter,
  updatedAt: moment,
});
