import { cross, length, minus, times, type Vector } from './vector.ts';

/**
 * A triangle mesh: metres, y up, counter-clockwise triangles seen from outside; UVs with v running down, as in glTF.
 */
export interface MeshData {
  /** Three numbers a vertex. */
  readonly positions: Float32Array;
  /** Three numbers a vertex, of length 1. */
  readonly normals: Float32Array;
  /** Two numbers a vertex. */
  readonly uvs: Float32Array;
  /** Four numbers a vertex, linear red, green, blue and alpha, 0..1; left out where all are white. */
  readonly colors?: Float32Array;
  /** Three vertices a triangle. */
  readonly indices: Uint32Array;
}

/** Most triangles of a mesh that is taken in, or made by cutting one. */
export const TRIANGLE_LIMIT = 200_000;

/** Where a vertex is. */
export const positionOf = ({ positions }: MeshData, vertex: number): Vector => [
  positions[vertex * 3]!,
  positions[vertex * 3 + 1]!,
  positions[vertex * 3 + 2]!,
];
/** The three vertices of a triangle. */
export const cornersOf = ({ indices }: MeshData, triangle: number): readonly [number, number, number] => [
  indices[triangle * 3]!,
  indices[triangle * 3 + 1]!,
  indices[triangle * 3 + 2]!,
];

/** A place in space for each place of the UV square. */
export type Surface = (u: number, v: number) => Vector;

const STEP = 1e-4;

/** The normal of a surface at a place, by the slopes there; where they vanish, at a pole, by those a step inside. */
function normalAt(at: Surface, u: number, v: number): Vector {
  for (const inset of [0, 1e-3, 1e-2]) {
    const [s, t] = [u + (0.5 - u) * inset, v + (0.5 - v) * inset];
    // u runs right and v down, so that their cross product, this way round, points to the viewer.
    const n = cross(minus(at(s, t + STEP), at(s, t - STEP)), minus(at(s + STEP, t), at(s - STEP, t)));
    if (length(n) > 1e-12) return times(n, 1 / length(n));
  }
  return [0, 0, 1];
}

/** A surface as a grid of `columns` by `rows` quads, each two triangles, over a part of the UV square. */
export function gridOf(at: Surface, columns: number, rows: number): MeshData {
  const count = (columns + 1) * (rows + 1);
  const positions = new Float32Array(count * 3);
  const normals = new Float32Array(count * 3);
  const uvs = new Float32Array(count * 2);
  const indices = new Uint32Array(columns * rows * 6);
  for (let y = 0, i = 0; y <= rows; y++)
    for (let x = 0; x <= columns; x++, i++) {
      const [u, v] = [x / columns, y / rows];
      positions.set(at(u, v), i * 3);
      normals.set(normalAt(at, u, v), i * 3);
      uvs.set([u, v], i * 2);
    }
  for (let y = 0, i = 0; y < rows; y++)
    for (let x = 0; x < columns; x++, i += 6) {
      const a = y * (columns + 1) + x;
      const b = a + columns + 1;
      indices.set([a, b, a + 1, a + 1, b, b + 1], i);
    }
  return { positions, normals, uvs, indices };
}

/** Several meshes as one. */
export function mergeMeshes(parts: readonly MeshData[]): MeshData {
  const flat = (of: (m: MeshData) => Float32Array): Float32Array => {
    const all = parts.map(of);
    const result = new Float32Array(all.reduce((sum, a) => sum + a.length, 0));
    let start = 0;
    for (const part of all) {
      result.set(part, start);
      start += part.length;
    }
    return result;
  };
  const indices = new Uint32Array(parts.reduce((sum, p) => sum + p.indices.length, 0));
  let [vertices, start] = [0, 0];
  for (const part of parts) {
    for (const i of part.indices) indices[start++] = vertices + i;
    vertices += part.positions.length / 3;
  }
  const white = (m: MeshData): Float32Array => m.colors ?? new Float32Array((m.positions.length / 3) * 4).fill(1);
  return {
    positions: flat((m) => m.positions),
    normals: flat((m) => m.normals),
    uvs: flat((m) => m.uvs),
    ...(parts.some((p) => p.colors) ? { colors: flat(white) } : {}),
    indices,
  };
}

/** The same with other UVs at each vertex; `change` is told the vertex too. */
export function withUvs(
  mesh: MeshData,
  change: (u: number, v: number, vertex: number) => readonly [number, number],
): MeshData {
  const uvs = new Float32Array(mesh.uvs.length);
  for (let i = 0; i < uvs.length; i += 2) uvs.set(change(mesh.uvs[i]!, mesh.uvs[i + 1]!, i / 2), i);
  return { ...mesh, uvs };
}

/**
 * Smooth normals: at each place the mean of the triangles around it, weighted by area. Vertices at one place within
 * `places` share theirs.
 */
export function withNormals(mesh: MeshData, places: Int32Array): MeshData {
  const sums = new Float64Array(mesh.positions.length);
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    const corners = cornersOf(mesh, t);
    const [a, b, c] = corners.map((v) => positionOf(mesh, v)) as [Vector, Vector, Vector];
    const n = cross(minus(b, a), minus(c, a));
    for (const v of corners) for (let k = 0; k < 3; k++) sums[places[v]! * 3 + k]! += n[k]!;
  }
  const normals = new Float32Array(mesh.positions.length);
  for (let v = 0; v < normals.length / 3; v++) {
    const at = places[v]! * 3;
    const n: Vector = [sums[at]!, sums[at + 1]!, sums[at + 2]!];
    normals.set(length(n) > 1e-20 ? times(n, 1 / length(n)) : [0, 1, 0], v * 3);
  }
  return { ...mesh, normals };
}
