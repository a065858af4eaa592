import type { MeshData } from './mesh.ts';
import { quadsOf } from './quads.ts';
import type { Selection } from './selection.ts';
import { sidesByEdge, weldedPlaces } from './weld.ts';

/** The faces of a mesh and how they hang together in space, whatever its UVs: as arrays, so that a worker can send it. */
export interface FaceGraph {
  /** The face of each triangle; -1 of one without area. */
  readonly faceOf: Int32Array;
  /** Sides of each face: three or four. */
  readonly sides: Uint8Array;
  /** Four for each face: which face lies across each side; -1 for none, and where more than two meet. */
  readonly across: Int32Array;
}

export function faceGraphOf(mesh: MeshData): FaceGraph {
  const weld = weldedPlaces(mesh);
  const triangles = Array.from({ length: mesh.indices.length / 3 }, (_, t) => t);
  const faces = quadsOf(mesh, { triangles, weld });
  const faceOf = new Int32Array(triangles.length).fill(-1);
  const sides = Uint8Array.from(faces, ({ face }) => face.length);
  const across = new Int32Array(faces.length * 4).fill(-1);
  faces.forEach(({ triangles: own }, f) => {
    for (const t of own) faceOf[t] = f;
  });
  const edges = sidesByEdge(
    faces.map(({ face }) => face),
    weld,
  );
  for (const [first, second, ...more] of edges.values()) {
    if (second === undefined || more.length > 0) continue;
    across[first!] = second >> 2;
    across[second] = first! >> 2;
  }
  return { faceOf, sides, across };
}

/** The faces of which a triangle is selected. */
function facesIn({ faceOf, sides }: FaceGraph, selected: Selection): Uint8Array {
  const marks = new Uint8Array(sides.length);
  selected.forEach((mark, t) => {
    if (mark === 1 && faceOf[t]! >= 0) marks[faceOf[t]!] = 1;
  });
  return marks;
}

const trianglesIn = ({ faceOf }: FaceGraph, marks: Uint8Array): Selection =>
  Uint8Array.from(faceOf, (face) => (face >= 0 ? marks[face]! : 0));

/** Everything that hangs together with what is selected, by edges in space. */
export function connectedTo(graph: FaceGraph, selected: Selection): Selection {
  const marks = facesIn(graph, selected);
  const stack = [...marks.keys()].filter((face) => marks[face] === 1);
  for (let face = stack.pop(); face !== undefined; face = stack.pop())
    for (let k = 0; k < 4; k++) {
      const next = graph.across[face * 4 + k]!;
      if (next < 0 || marks[next] === 1) continue;
      marks[next] = 1;
      stack.push(next);
    }
  return trianglesIn(graph, marks);
}

/**
 * The loops of quads that run through what is selected: from face to face over opposite sides, until an end, a triangle, or back
 * where they began. Through faces that lie side by side they run from one to the next; through a single face the longer of its
 * two.
 */
export function loopsThrough(graph: FaceGraph, selected: Selection): Selection {
  const marks = facesIn(graph, selected);
  const result = marks.slice();
  const { across, sides } = graph;
  const run = (start: number, side: number): number[] => {
    const found = [start];
    const seen = new Set(found);
    for (const first of [side, (side + 2) % 4]) {
      let [face, out] = [start, first];
      for (;;) {
        const next = across[face * 4 + out]!;
        if (next < 0 || sides[next] !== 4 || seen.has(next)) break;
        seen.add(next);
        found.push(next);
        let into = 0;
        while (across[next * 4 + into] !== face) into++;
        [face, out] = [next, (into + 2) % 4];
      }
    }
    return found;
  };
  marks.forEach((mark, face) => {
    if (mark === 0 || sides[face] !== 4) return;
    const beside = [0, 1, 2, 3].filter((k) => across[face * 4 + k]! >= 0 && marks[across[face * 4 + k]!] === 1);
    const ways = beside.length > 0 ? [...new Set(beside.map((k) => k % 2))] : [0, 1];
    const loops = ways.map((way) => run(face, way));
    const wanted =
      beside.length > 0 ? loops : [loops.reduce((longest, loop) => (loop.length > longest.length ? loop : longest))];
    for (const one of wanted.flat()) result[one] = 1;
  });
  return trianglesIn(graph, result);
}

/** The triangles of the faces that some triangles belong to. */
export function wholeFaces(graph: FaceGraph, triangles: Iterable<number>): number[] {
  const marks = new Uint8Array(graph.sides.length);
  const alone: number[] = [];
  for (const t of triangles) {
    const face = graph.faceOf[t]!;
    if (face >= 0) marks[face] = 1;
    else alone.push(t);
  }
  return [...alone, ...[...graph.faceOf.keys()].filter((t) => graph.faceOf[t]! >= 0 && marks[graph.faceOf[t]!] === 1)];
}
