import type { MeshData } from '@estela/core';
import { BYTE_LIMIT } from '../limits.ts';
import { meshOfCorners } from './corners.ts';
import { readGltf } from './glb.ts';
import { brokenMesh, tooLargeMesh, wrongMeshType } from './limits.ts';
import { flaws } from '../wording.ts';

export { hasUvs } from './corners.ts';
export { glbOf } from './glb.ts';
export { readGltfMaterials, type GltfImage, type GltfLooks } from './gltf-materials.ts';
export { MeshRefused } from './limits.ts';

/** A mesh that was read, and what a person should know of it. */
export interface ReadMesh {
  readonly mesh: MeshData;
  readonly type: 'OBJ' | 'glTF' | 'GLB';
  /** Whether it says where a material lies on it. */
  readonly hasUvs: boolean;
  /** What was left out, as sentences. */
  readonly notes: readonly string[];
}

/** A mesh as Wavefront OBJ. */
export const objOf = async (mesh: MeshData, name: string): Promise<string> =>
  (await import('./obj.ts')).objOf(mesh, name);

/** Endings of the files that meshes come in. */
export const MESH_ENDINGS = ['.obj', '.gltf', '.glb'] as const;
export const isMeshName = (name: string): boolean => MESH_ENDINGS.some((ending) => name.toLowerCase().endsWith(ending));

/**
 * Reads an OBJ, glTF or GLB file into one mesh: its parts together, as they stand in the scene, textures and materials
 * left out. `beside`
 * holds files that came with it, by name. Throws MeshRefused for what is none of these, broken, or beyond a limit.
 */
export async function readMesh(
  name: string,
  bytes: Uint8Array,
  beside: ReadonlyMap<string, Uint8Array> = new Map(),
): Promise<ReadMesh> {
  if (bytes.length > BYTE_LIMIT) throw tooLargeMesh(bytes.length);
  const ending = MESH_ENDINGS.find((e) => name.toLowerCase().endsWith(e));
  if (ending === undefined) throw wrongMeshType();
  if (ending !== '.obj') {
    const { parts, notes } = await readGltf(bytes, beside);
    const type = ending === '.glb' ? 'GLB' : 'glTF';
    return { ...meshOfCorners(parts, type), type, notes };
  }
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw brokenMesh('OBJ', flaws.notText);
  }
  const { readObj } = await import('./obj.ts');
  return { ...meshOfCorners(readObj(text), 'OBJ'), type: 'OBJ', notes: [] };
}
