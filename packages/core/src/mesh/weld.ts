import { cornersOf, type MeshData } from './mesh.ts';

/** Parts of the mesh's size, or of the UV square, within which two vertices are at one place. */
const FINENESS = 1e5;

/** A multiplicative hash of three whole numbers (D. Knuth, The Art of Computer Programming 3, 6.4). */
function hashOf(x: number, y: number, z: number): number {
  let hash = 0;
  for (const part of [x, y, z]) {
    hash = Math.imul(hash ^ part, 0x9e3779b1);
    hash ^= hash >>> 15;
  }
  return hash;
}

/** Chains of vertices by a hash, the first that was added last. */
class Buckets {
  readonly #heads: Int32Array;
  readonly #next: Int32Array;

  constructor(count: number) {
    this.#heads = new Int32Array(2 ** Math.ceil(Math.log2(count + 1) + 1)).fill(-1);
    this.#next = new Int32Array(count);
  }

  add(hash: number, vertex: number): void {
    const slot = hash & (this.#heads.length - 1);
    this.#next[vertex] = this.#heads[slot]!;
    this.#heads[slot] = vertex;
  }

  /** One of those with a hash, and maybe others, that holds; -1 where there is none. */
  find(hash: number, holds: (vertex: number) => boolean): number {
    let vertex = this.#heads[hash & (this.#heads.length - 1)]!;
    while (vertex >= 0 && !holds(vertex)) vertex = this.#next[vertex]!;
    return vertex;
  }
}

/**
 * For each vertex an earlier one within a hundred thousandth of the mesh's size of it on each axis; itself where there
 * is none. Cells are twice as wide, so that what is so near lies in the vertex's own cell or in the nearer neighbour on
 * an axis.
 */
function nearbyPlaces({ positions }: MeshData): Int32Array {
  const scale = FINENESS / positions.reduce((max, x) => Math.max(max, Math.abs(x)), 1e-9);
  const count = positions.length / 3;
  const buckets = new Buckets(count);
  return Int32Array.from({ length: count }, (_, v) => {
    const [x, y, z] = [positions[v * 3]! * scale, positions[v * 3 + 1]! * scale, positions[v * 3 + 2]! * scale];
    const isNear = (other: number): boolean =>
      Math.abs(positions[other * 3]! * scale - x) <= 1 &&
      Math.abs(positions[other * 3 + 1]! * scale - y) <= 1 &&
      Math.abs(positions[other * 3 + 2]! * scale - z) <= 1;
    const [cx, cy, cz] = [Math.floor(x / 2), Math.floor(y / 2), Math.floor(z / 2)];
    const side = (at: number, cell: number): number => (at / 2 - cell < 0.5 ? -1 : 1);
    const [sx, sy, sz] = [side(x, cx), side(y, cy), side(z, cz)];
    let found = -1;
    for (let k = 0; k < 8 && found < 0; k++)
      found = buckets.find(hashOf(cx + (k & 1 ? sx : 0), cy + (k & 2 ? sy : 0), cz + (k & 4 ? sz : 0)), isNear);
    if (found >= 0) return found;
    buckets.add(hashOf(cx, cy, cz), v);
    return v;
  });
}

const places = new WeakMap<Float32Array, Int32Array>();
/** For each vertex the first one at the same place. */
export function weldedPlaces(mesh: MeshData): Int32Array {
  let known = places.get(mesh.positions);
  if (!known) places.set(mesh.positions, (known = nearbyPlaces(mesh)));
  return known;
}

/** For each vertex the first one at the same place that has the same UV. */
export function weldedPoints(mesh: MeshData): Int32Array {
  const weld = weldedPlaces(mesh);
  const { uvs } = mesh;
  const buckets = new Buckets(weld.length);
  return Int32Array.from(weld, (place, v) => {
    const [u, w] = [Math.round(uvs[v * 2]! * FINENESS), Math.round(uvs[v * 2 + 1]! * FINENESS)];
    const hash = hashOf(place, u, w);
    const found = buckets.find(
      hash,
      (other) =>
        weld[other] === place &&
        Math.round(uvs[other * 2]! * FINENESS) === u &&
        Math.round(uvs[other * 2 + 1]! * FINENESS) === w,
    );
    if (found >= 0) return found;
    buckets.add(hash, v);
    return v;
  });
}

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
