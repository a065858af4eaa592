import type { MeshData } from '@estela/core';
import { BufferAttribute, BufferGeometry } from 'three';
import * as mikktspace from 'three/addons/libs/mikktspace.module.js';
import { computeMikkTSpaceTangents } from 'three/addons/utils/BufferGeometryUtils.js';

/** A mesh whose vertices have tangents, four numbers each, the last of them the side of the bitangent. */
export interface TangentMesh {
  readonly mesh: MeshData;
  readonly tangents: Float32Array;
}

/** Tangents as MikkTSpace makes them; vertices that need several are made several. */
export async function withTangents(mesh: MeshData): Promise<TangentMesh> {
  await mikktspace.ready;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3));
  geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3));
  geometry.setAttribute('uv', new BufferAttribute(mesh.uvs, 2));
  geometry.setIndex(new BufferAttribute(mesh.indices, 1));
  computeMikkTSpaceTangents(geometry, mikktspace);
  const corners = geometry.getAttribute('tangent').array;
  const numbers = new Map<string, number>();
  const vertices: number[] = [];
  const tangents: number[] = [];
  const indices = mesh.indices.map((vertex, corner) => {
    const tangent = sound(corners.slice(corner * 4, corner * 4 + 4), mesh.normals.subarray(vertex * 3, vertex * 3 + 3));
    const key = `${String(vertex)} ${tangent.map((v) => v.toFixed(5)).join(' ')}`;
    let number = numbers.get(key);
    if (number === undefined) {
      numbers.set(key, (number = vertices.push(vertex) - 1));
      tangents.push(...tangent);
    }
    return number;
  });
  const of = (values: Float32Array, width: number): Float32Array<ArrayBuffer> =>
    Float32Array.from(
      { length: vertices.length * width },
      (_, i) => values[vertices[Math.floor(i / width)]! * width + (i % width)]!,
    );
  return {
    mesh: {
      positions: of(mesh.positions, 3),
      normals: of(mesh.normals, 3),
      uvs: of(mesh.uvs, 2),
      ...(mesh.colors ? { colors: of(mesh.colors, 4) } : {}),
      indices,
    },
    tangents: Float32Array.from(tangents),
  };
}

/** A tangent of length 1; where the UVs give none, any one square to the normal. */
function sound([x = 0, y = 0, z = 0, w = 1]: ArrayLike<number> & Iterable<number>, normal: Float32Array): number[] {
  const length = Math.hypot(x, y, z);
  const side = w < 0 ? -1 : 1;
  if (Math.abs(length - 1) < 1e-3) return [x / length, y / length, z / length, side];
  const [a, b, c] = normal as unknown as [number, number, number];
  const across = Math.abs(a) < 0.9 ? [0, c, -b] : [-c, 0, a];
  const by = Math.hypot(...across) || 1;
  return [...(by === 1 && across.every((v) => v === 0) ? [1, 0, 0] : across.map((v) => v / by)), side];
}
