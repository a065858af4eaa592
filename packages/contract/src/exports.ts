import {
  GLTF_FRAME_LIMIT,
  GLTF_IMAGES,
  GLTF_SIZES,
  SHAPES,
  TARGETS,
  type GltfImageType,
  type Target,
} from '@estela/core';
import Joi from 'joi';
import { object, uuid } from './object.ts';

/** How a material is to leave, as the query of an address. */
export interface ExportQuery {
  /** Languages with commas between; all of them without. */
  readonly target?: readonly Target[];
  readonly variant?: string;
  /** Where green of a normal points. */
  readonly normalY: 'up' | 'down';
  /** Writes it without the images that are not there; else it is refused. */
  readonly leaveOutMissing: boolean;
}

/** Several materials in one zip, a folder each. */
export interface ExportsQuery extends ExportQuery {
  /** Their ids with commas between. */
  readonly materials: readonly string[];
}

const list = (what: Joi.Schema, label: string, most: number): Joi.Schema =>
  Joi.string()
    .custom((text: string, helpers) => {
      const read = Joi.array<unknown[]>().items(what).unique().min(1).max(most).label(label);
      const result = read.validate(text.split(','));
      return result.error ? helpers.message({ custom: result.error.message }) : result.value;
    })
    .label(label);

const how = {
  target: list(Joi.valid(...TARGETS), 'target', TARGETS.length),
  variant: Joi.string().max(200).label('variant'),
  normalY: Joi.valid('up', 'down').default('up').label('normalY'),
  leaveOutMissing: Joi.boolean().default(false).label('leaveOutMissing'),
};
export const exportQuery = object<ExportQuery>(how);
export const exportsQuery = object<ExportsQuery>({ ...how, materials: list(uuid, 'materials', 100).required() });

/** How something leaves as GLB. */
interface GlbQuery {
  /** Pixels along a side of what is baked. */
  readonly size: number;
  /** Frames of what changes in itself; 0 bakes its first moment. */
  readonly frames: number;
  /** What textures are stored as. */
  readonly images: GltfImageType;
  /** Writes it without the images that are not there; else it is refused. */
  readonly leaveOutMissing: boolean;
}
export interface MaterialGlbQuery extends GlbQuery {
  /** A shape by its name, or a mesh of the project by its id. */
  readonly mesh: string;
  /** Of one variant alone; else the base with all variants. */
  readonly variant?: string;
}
export interface SetGlbQuery extends GlbQuery {
  /** Copies that only stand are one mesh with many places. */
  readonly instanced: boolean;
}

const glb = {
  size: Joi.number()
    .valid(...GLTF_SIZES)
    .default(512)
    .label('size'),
  frames: Joi.number().integer().min(0).max(GLTF_FRAME_LIMIT).default(0).label('frames'),
  images: Joi.valid(...GLTF_IMAGES)
    .default('png')
    .label('images'),
  leaveOutMissing: how.leaveOutMissing,
};
export const materialGlbQuery = object<MaterialGlbQuery>({
  ...glb,
  mesh: Joi.alternatives(Joi.valid(...Object.keys(SHAPES)), uuid)
    .default('plane')
    .label('mesh'),
  variant: how.variant,
});
export const setGlbQuery = object<SetGlbQuery>({
  ...glb,
  instanced: Joi.boolean().default(false).label('instanced'),
});
