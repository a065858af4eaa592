import Joi from 'joi';
import { contentHash, oneLine } from '../sources/sources.schema.ts';

/** The fields that come with a mesh's GLB, or with the hash of one that is stored. */
export interface MeshBody {
  readonly name?: string;
  readonly hash?: string;
}

export const newMesh = Joi.object<MeshBody & { name: string }>({ name: oneLine.required(), hash: contentHash });
export const changedMesh = Joi.object<MeshBody>({ name: oneLine, hash: contentHash });
