import { TRIANGLE_LIMIT } from '@estela/core';
import { BYTE_LIMIT, megabytes } from '../limits.ts';

/** Why a mesh is not taken; the sentence goes on after its name. */
export class MeshRefused extends Error {
  constructor(
    readonly code: 'wrong-type' | 'broken' | 'too-many-triangles' | 'too-many-parts' | 'too-many-bytes' | 'lacks-file',
    message: string,
  ) {
    super(message);
  }
}

/**
 * Most nodes, meshes, primitives or accessors of a file, and most primitives that its scene shows; most groups of an
 * OBJ.
 */
export const PART_LIMIT = 20_000;

export const wrongMeshType = (): MeshRefused =>
  new MeshRefused('wrong-type', 'is not a mesh Estela can read: use OBJ, glTF or GLB.');
export const brokenMesh = (type: string, why: string): MeshRefused =>
  new MeshRefused('broken', `is a broken ${type} file: ${why}.`);
export const noTriangles = (): MeshRefused =>
  new MeshRefused('broken', 'has no triangles, so there is nothing to put a material on.');
export const tooManyTriangles = (count: number): MeshRefused =>
  new MeshRefused(
    'too-many-triangles',
    `has ${String(Math.ceil(count / 1000))} thousand triangles; the limit is ${String(TRIANGLE_LIMIT / 1000)} thousand. Reduce it in your mesh editor.`,
  );
export const tooManyVertices = (count: number, most: number): MeshRefused =>
  new MeshRefused(
    'too-many-triangles',
    `has ${String(Math.ceil(count / 1000))} thousand values for vertices and faces; the limit is ${String(most / 1000)} thousand. Reduce it in your mesh editor.`,
  );
export const tooManyParts = (count: number): MeshRefused =>
  new MeshRefused(
    'too-many-parts',
    `is made of ${String(count)} parts; the limit is ${String(PART_LIMIT)}. Merge parts in your mesh editor.`,
  );
export const tooLargeMesh = (bytes: number): MeshRefused =>
  new MeshRefused('too-many-bytes', `is ${megabytes(bytes)} MB; the limit is ${megabytes(BYTE_LIMIT)} MB.`);
export const lacksFile = (uri: string): MeshRefused =>
  new MeshRefused('lacks-file', `needs the file "${uri}" beside it. Import both together.`);
export const compressed = (extension: string): MeshRefused =>
  new MeshRefused(
    'wrong-type',
    `is compressed with ${extension}, which Estela cannot read. Export it without compression.`,
  );
