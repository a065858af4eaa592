/** A triangle mesh: metres, y up, counter-clockwise triangles seen from outside; UVs with v running down, as in glTF. */
export interface MeshData {
  /** Three numbers a vertex. */
  readonly positions: Float32Array;
  /** Three numbers a vertex, of length 1. */
  readonly normals: Float32Array;
  /** Two numbers a vertex. */
  readonly uvs: Float32Array;
  /** Three vertices a triangle. */
  readonly indices: Uint32Array;
}

type Vector = readonly [number, number, number];
/** A place in space for each place of the UV square. */
export type Surface = (u: number, v: number) => Vector;

const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Vector, b: Vector): Vector => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const length = (a: Vector): number => Math.hypot(...a);

const STEP = 1e-4;

/** The normal of a surface at a place, by the slopes there; where they vanish, at a pole, by those a step inside. */
function normalAt(at: Surface, u: number, v: number): Vector {
  for (const inset of [0, 1e-3, 1e-2]) {
    const [s, t] = [u + (0.5 - u) * inset, v + (0.5 - v) * inset];
    // u runs right and v down, so that their cross product, this way round, points to the viewer.
    const n = cross(minus(at(s, t + STEP), at(s, t - STEP)), minus(at(s + STEP, t), at(s - STEP, t)));
    if (length(n) > 1e-12) return [n[0] / length(n), n[1] / length(n), n[2] / length(n)];
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
export function joined(parts: readonly MeshData[]): MeshData {
  const flat = (of: (m: MeshData) => Float32Array): Float32Array => Float32Array.from(parts.flatMap((p) => [...of(p)]));
  let start = 0;
  const indices: number[] = [];
  for (const part of parts) {
    for (const i of part.indices) indices.push(start + i);
    start += part.positions.length / 3;
  }
  return { positions: flat((m) => m.positions), normals: flat((m) => m.normals), uvs: flat((m) => m.uvs), indices: Uint32Array.from(indices) };
}

/** The same with other UVs at each vertex. */
export const withUvs = (mesh: MeshData, change: (u: number, v: number) => readonly [number, number]): MeshData => ({
  ...mesh,
  uvs: Float32Array.from({ length: mesh.uvs.length }, (_, i) => change(mesh.uvs[i - (i % 2)]!, mesh.uvs[i - (i % 2) + 1]!)[i % 2]!),
});
