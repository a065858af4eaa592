import Joi from 'joi';
import { contentHash, oneLine } from '../sources/sources.schema.ts';

/** The fields that come with a mesh's GLB, or with the hash of one that is stored. */
export interface MeshBody {
  readonly name?: string;
  readonly hash?: string;
}

/** `id` brings a deleted mesh back under the id that sets know it by. */
export interface NewMesh extends MeshBody {
  readonly name: string;
  readonly id?: string;
}

export const newMesh = Joi.object<NewMesh>({ name: oneLine.required(), hash: contentHash, id: Joi.string().uuid() });
export const changedMesh = Joi.object<MeshBody>({ name: oneLine, hash: contentHash });
