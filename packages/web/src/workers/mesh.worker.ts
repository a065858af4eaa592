/// <reference lib="webworker" />
import { glbOf, MeshRefused, objOf, readMesh, type ReadMesh } from '@estela/codecs/mesh';
import { cylindrical, planar, type MeshData } from '@estela/core';
import { expose, transfer } from 'comlink';

const buffersOf = ({ positions, normals, uvs, colors, indices }: MeshData): ArrayBuffer[] =>
  [positions, normals, uvs, indices, ...(colors ? [colors] : [])].map((a) => a.buffer as ArrayBuffer);

/** Mesh files, read and written away from the page. Refusals are Errors with a plain sentence. */
const work = {
  async read(name: string, bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array>): Promise<ReadMesh> {
    try {
      const read = await readMesh(name, bytes, beside);
      return transfer(read, buffersOf(read.mesh));
    } catch (error) {
      if (error instanceof MeshRefused) throw new Error(`"${name}" ${error.message}`, { cause: error });
      throw error;
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
