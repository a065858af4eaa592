import Joi from 'joi';
import { answer, contentHash, counter, moment, object, oneLine, uuid } from './object.ts';

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

/** A mesh of a project; its GLB has an address of its own. */
export interface StoredMesh {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly hash: string;
  /** Of its GLB, in bytes. */
  readonly size: number;
  readonly triangles: number;
  readonly version: number;
  readonly updatedAt: string;
}

export const newMesh = object<NewMesh>({ name: oneLine.required(), hash: contentHash, id: uuid });
export const changedMesh = object<MeshBody>({ name: oneLine, hash: contentHash });

export const meshAnswer = answer<StoredMesh>('Mesh', {
  id: uuid,
  projectId: uuid,
  name: oneLine,
  hash: contentHash,
  size: Joi.number().integer().min(0),
  triangles: Joi.number().integer().min(0),
  version: counter,
  updatedAt: moment,
});
