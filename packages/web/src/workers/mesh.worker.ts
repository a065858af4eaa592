/// <reference lib="webworker" />
import {
  glbOf,
  MeshRefused,
  objOf,
  readGltfMaterials,
  readMesh,
  type GltfLooks,
  type ReadMesh,
} from '@estela/codecs/mesh';
import { cylindrical, planar, type MeshData } from '@estela/core';
import { expose, transfer } from 'comlink';

const buffersOf = ({ positions, normals, uvs, colors, indices }: MeshData): ArrayBuffer[] =>
  [positions, normals, uvs, indices, ...(colors ? [colors] : [])].map((a) => a.buffer as ArrayBuffer);

const inWords = (name: string, error: unknown): unknown =>
  error instanceof MeshRefused ? new Error(`"${name}" ${error.message}`, { cause: error }) : error;

/** Mesh files, read and written away from the page. Refusals are Errors with a plain sentence. */
const work = {
  async read(name: string, bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array>): Promise<ReadMesh> {
    try {
      const read = await readMesh(name, bytes, beside);
      return transfer(read, buffersOf(read.mesh));
    } catch (error) {
      throw inWords(name, error);
    }
  },
  /** Materials with textures in a glTF or GLB file. */
  async looks(name: string, bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array>): Promise<GltfLooks> {
    try {
      const looks = await readGltfMaterials(bytes, beside);
      return transfer(
        looks,
        [...looks.images.values()].map((image) => image.bytes.buffer),
      );
    } catch (error) {
      throw inWords(name, error);
    }
  },
  async glb(mesh: MeshData, name: string): Promise<Uint8Array<ArrayBuffer>> {
    const bytes = await glbOf(mesh, name);
    return transfer(bytes, [bytes.buffer]);
  },
  obj: (mesh: MeshData, name: string): Promise<string> => objOf(mesh, name),
  /** Lays UVs over all of a mesh that has none. */
  lay(mesh: MeshData, projection: 'planar' | 'cylindrical'): MeshData {
    const whole = new Uint8Array(mesh.positions.length / 3).fill(1);
    const laid = projection === 'planar' ? planar(mesh, whole, 'faces') : cylindrical(mesh, whole, 'y');
    if ('problem' in laid) throw new Error(laid.problem);
    return transfer(laid.mesh, buffersOf(laid.mesh));
  },
};
export type MeshWork = typeof work;

expose(work);
