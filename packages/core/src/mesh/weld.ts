import { cornersOf, type MeshData } from './mesh.ts';

/** Parts of the mesh's size, or of the UV square, within which two vertices are at one place. */
const FINENESS = 1e5;

function numbered(count: number, keyOf: (vertex: number) => string): Int32Array {
  const first = new Map<string, number>();
  return Int32Array.from({ length: count }, (_, v) => {
    const key = keyOf(v);
    const known = first.get(key);
    if (known === undefined) first.set(key, v);
    return known ?? v;
  });
}

const sizes = new WeakMap<Float32Array, number>();
function sizeOf({ positions }: MeshData): number {
  let size = sizes.get(positions);
  if (size === undefined) {
    size = positions.reduce((most, x) => Math.max(most, Math.abs(x)), 1e-9);
    sizes.set(positions, size);
  }
  return size;
}

function placeKey({ positions }: MeshData, v: number, scale: number): string {
  return `${String(Math.round(positions[v * 3]! * scale))} ${String(Math.round(positions[v * 3 + 1]! * scale))} ${String(Math.round(positions[v * 3 + 2]! * scale))}`;
}

/** For each vertex the first one at the same place. */
export function weldedPlaces(mesh: MeshData): Int32Array {
  const scale = FINENESS / sizeOf(mesh);
  return numbered(mesh.positions.length / 3, (v) => placeKey(mesh, v, scale));
}

/** For each vertex the first one at the same place that has the same UV. */
export function weldedPoints(mesh: MeshData): Int32Array {
  const scale = FINENESS / sizeOf(mesh);
  const { uvs } = mesh;
  return numbered(
    mesh.positions.length / 3,
    (v) => `${placeKey(mesh, v, scale)} ${String(Math.round(uvs[v * 2]! * FINENESS))} ${String(Math.round(uvs[v * 2 + 1]! * FINENESS))}`,
  );
}

/** The parts that a mesh's UV layout falls into. */
export interface Islands {
  readonly count: number;
  /** The island of each vertex; -1 for one that no triangle uses. */
  readonly ofVertex: Int32Array;
}

/** Islands are triangles that hang together by edges whose ends have the same place and UV on both sides. They are numbered in the order of the triangles. */
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
      const [a, b] = [points[v]!, points[corners[(k + 1) % 3]!]!];
      const key = Math.min(a, b) * points.length + Math.max(a, b);
      const before = edges.get(key);
      if (before === undefined) edges.set(key, v);
      else if (a !== b) join(before, v);
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
