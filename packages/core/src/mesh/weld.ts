import { cornersOf, type MeshData } from './mesh.ts';

/** Parts of the mesh's size, or of the UV square, within which two vertices are at one place. */
const FINENESS = 1e5;

/**
 * For each row of `width` whole numbers the first row that is the same: open addressing, with a multiplicative hash (D.
 * Knuth, The Art of Computer Programming 3, 6.4).
 */
function firstAlike(rows: Float64Array, width: number): Int32Array {
  const count = rows.length / width;
  const slots = new Int32Array(2 ** Math.ceil(Math.log2(count + 1) + 1)).fill(-1);
  const alike = (a: number, b: number): boolean => {
    for (let k = 0; k < width; k++) if (rows[a * width + k] !== rows[b * width + k]) return false;
    return true;
  };
  return Int32Array.from({ length: count }, (_, v) => {
    let hash = 0;
    for (let k = v * width; k < (v + 1) * width; k++) {
      hash = Math.imul(hash ^ rows[k]!, 0x9e3779b1);
      hash ^= hash >>> 15;
    }
    let slot = hash & (slots.length - 1);
    while (slots[slot]! >= 0 && !alike(slots[slot]!, v)) slot = (slot + 1) & (slots.length - 1);
    if (slots[slot]! < 0) slots[slot] = v;
    return slots[slot]!;
  });
}

/** The parts of the mesh's size, or of the UV square, that its vertices lie at, in whole numbers. */
function rowsOf({ positions, uvs }: MeshData, width: 3 | 5): Float64Array {
  const scale = FINENESS / positions.reduce((max, x) => Math.max(max, Math.abs(x)), 1e-9);
  const rows = new Float64Array((positions.length / 3) * width);
  for (let v = 0; v < positions.length / 3; v++)
    for (let k = 0; k < width; k++)
      rows[v * width + k] = Math.round(k < 3 ? positions[v * 3 + k]! * scale : uvs[v * 2 + k - 3]! * FINENESS);
  return rows;
}

const places = new WeakMap<Float32Array, Int32Array>();
/** For each vertex the first one at the same place. */
export function weldedPlaces(mesh: MeshData): Int32Array {
  let known = places.get(mesh.positions);
  if (!known) places.set(mesh.positions, (known = firstAlike(rowsOf(mesh, 3), 3)));
  return known;
}

/** For each vertex the first one at the same place that has the same UV. */
export const weldedPoints = (mesh: MeshData): Int32Array => firstAlike(rowsOf(mesh, 5), 5);

/** The parts that a mesh's UV layout falls into. */
export interface Islands {
  readonly count: number;
  /** The island of each vertex; -1 for one that no triangle uses. */
  readonly ofVertex: Int32Array;
}

/**
 * Islands are triangles that hang together by edges whose ends have the same place and UV on both sides. They are
 * numbered in the order of the triangles.
 */
export function islandsOf(mesh: MeshData): Islands {
  const points = weldedPoints(mesh);
  const above = Int32Array.from({ length: points.length }, (_, i) => i);
  const top = (v: number): number => {
    let at = v;
    while (above[at] !== at) at = above[at] = above[above[at]!]!;
    return at;
  };
  const join = (a: number, b: number): void => {
    above[top(b)] = top(a);
  };
  const edges = new Map<number, number>();
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    const corners = cornersOf(mesh, t);
    join(corners[0], corners[1]);
    join(corners[0], corners[2]);
    corners.forEach((v, k) => {
      const next = corners[(k + 1) % 3]!;
      const key = edgeOf(points, v, next);
      const before = edges.get(key);
      if (before === undefined) edges.set(key, v);
      else if (points[v] !== points[next]) join(before, v);
    });
  }
  const numbers = new Map<number, number>();
  const ofVertex = new Int32Array(points.length).fill(-1);
  for (const v of mesh.indices) {
    const root = top(v);
    let number = numbers.get(root);
    if (number === undefined) numbers.set(root, (number = numbers.size));
    ofVertex[v] = number;
  }
  return { count: numbers.size, ofVertex };
}

/** One number for the edge between two vertices, whichever way it is gone along; `weld` tells which vertices are the same. */
export function edgeOf(weld: Int32Array, from: number, to: number): number {
  const [a, b] = [weld[from]!, weld[to]!];
  return Math.min(a, b) * weld.length + Math.max(a, b);
}

/** The sides of faces of up to four sides that have each edge: the face times four, and which of its sides. */
export function sidesByEdge(faces: readonly (readonly number[])[], weld: Int32Array): Map<number, number[]> {
  const sides = new Map<number, number[]>();
  faces.forEach((face, f) => {
    face.forEach((v, k) => {
      const edge = edgeOf(weld, v, face[(k + 1) % face.length]!);
      const known = sides.get(edge);
      if (known) known.push(f * 4 + k);
      else sides.set(edge, [f * 4 + k]);
    });
  });
  return sides;
}
