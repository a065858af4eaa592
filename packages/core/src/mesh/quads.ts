import { trianglesOf, type Part } from './fit.ts';
import { cornersOf, positionOf, type MeshData } from './mesh.ts';
import { dot, length, minus, unit, type Vector } from './vector.ts';
import { edgeOf, weldedPoints } from './weld.ts';

/** Faces of three or four vertices, in order round them. */
export type Face = readonly number[];
type Quad = readonly [number, number, number, number];

/** How far the corners of a face are from right ones, summed cosines. */
function crookedness(mesh: MeshData, face: Face): number {
  const at = face.map((v) => positionOf(mesh, v));
  return at.reduce((sum, p, i) => {
    const [before, after] = [at[(i + at.length - 1) % at.length]!, at[(i + 1) % at.length]!];
    return sum + Math.abs(dot(unit(minus(before, p), [0, 0, 0] as Vector), unit(minus(after, p), [0, 0, 0] as Vector)));
  }, 0);
}

/**
 * Two triangles that stand beside each other in a file are taken for a quad where its corners are no more crooked than
 * this in all.
 */
const CLEAR = 1;

/**
 * Whether a quad of two triangles, which meet at the diagonal from its first corner to its third, has no corner of half
 * a turn or more. A side may have no length, as at a pole.
 */
function isConvex(mesh: MeshData, [a, b, c, d]: Quad): boolean {
  const angle = (at: number, from: number, to: number): number => {
    const [p, q] = [from, to].map((v) => minus(positionOf(mesh, v), positionOf(mesh, at))) as [Vector, Vector];
    const long = length(p) * length(q);
    return long < 1e-12 ? 0 : Math.acos(Math.min(Math.max(dot(p, q) / long, -1), 1));
  };
  return angle(a, b, c) + angle(a, c, d) < Math.PI - 1e-3 && angle(c, a, b) + angle(c, d, a) < Math.PI - 1e-3;
}

/** Of the two triangles of a quad, how many have a longer side than the one they meet at: of a rectangle none. */
function longerSides(mesh: MeshData, [a, b, c, d]: Quad): number {
  const side = (p: number, q: number): number => length(minus(positionOf(mesh, p), positionOf(mesh, q)));
  const diagonal = side(a, c) * (1 + 1e-6);
  return [b, d].filter((v) => side(a, v) > diagonal || side(v, c) > diagonal).length;
}

/** A face with the triangles that it consists of. */
export interface CutFace {
  readonly face: Face;
  readonly triangles: readonly number[];
}

/** What triangles hang together by, and which of them: see quadsOf. */
export interface QuadSearch {
  readonly triangles: readonly number[];
  /** For each vertex the first one that counts as the same. */
  readonly weld: Int32Array;
}

/** The faces of a part whose triangles hang together by place and UV. */
export const facesOf = (mesh: MeshData, part: Part): Face[] =>
  quadsOf(mesh, { triangles: trianglesOf(mesh, part), weld: weldedPoints(mesh) }).map(({ face }) => face);

/**
 * The quads that triangles were cut from: files keep triangles only, but those of a quad mostly stand beside each other. Others
 * are paired over a common edge: first where it is the longest side of both and the quad most nearly rectangular, then such
 * that as few as may be are left over, which stay triangles. Triangles without area are left out.
 */
export function quadsOf(mesh: MeshData, { triangles: all, weld }: QuadSearch): CutFace[] {
  const triangles = all.filter((t) => {
    const [a, b, c] = cornersOf(mesh, t).map((v) => weld[v]) as [number, number, number];
    return a !== b && b !== c && a !== c;
  });
  const beside = besideEachOther(mesh, triangles, weld);
  // Where all of them are quads that way, they were quads before, however they lean.
  if (beside.length * 2 === triangles.length && beside.every(({ face }) => isConvex(mesh, face)))
    return beside.map(({ one, other, face }) => ({ face, triangles: [one, other] }));
  const pairs = pairsOf(mesh, triangles, weld);
  const isBeside = (pair: Pairing): boolean =>
    pair.one % 2 === 0 && pair.other === pair.one + 1 && pair.cost <= CLEAR && pair.longer === 0;
  pairs.sort((a, b) => Number(isBeside(b)) - Number(isBeside(a)) || a.longer - b.longer || a.cost - b.cost);
  const paired = new Map<number, Pairing>();
  for (const pair of pairs)
    if (!paired.has(pair.one) && !paired.has(pair.other)) paired.set(pair.one, pair).set(pair.other, pair);
  pairRest(triangles, pairs, paired);
  const done = new Set<Pairing>();
  return triangles.flatMap((t): CutFace[] => {
    const pair = paired.get(t);
    if (!pair) return [{ face: cornersOf(mesh, t), triangles: [t] }];
    if (done.has(pair)) return [];
    done.add(pair);
    return [{ face: pair.face, triangles: [pair.one, pair.other] }];
  });
}

/** Two triangles that may be a quad. */
interface Pairing {
  readonly one: number;
  readonly other: number;
  readonly face: Quad;
  readonly cost: number;
  readonly longer: number;
}

/** The quad of two triangles with a common edge: that which starts at corner `k` of the first, and at `j` of the second. */
function quadAt(mesh: MeshData, one: number, k: number, other: number, j: number): Quad {
  const [first, second] = [cornersOf(mesh, one), cornersOf(mesh, other)];
  return [first[k]!, second[(j + 2) % 3]!, first[(k + 1) % 3]!, first[(k + 2) % 3]!];
}

function besideEachOther(
  mesh: MeshData,
  triangles: readonly number[],
  weld: Int32Array,
): Pick<Pairing, 'one' | 'other' | 'face'>[] {
  const known = new Set(triangles);
  return triangles.flatMap((t) => {
    if (t % 2 !== 0 || !known.has(t + 1)) return [];
    const [a, b] = [cornersOf(mesh, t), cornersOf(mesh, t + 1)];
    for (let k = 0; k < 3; k++) {
      const j = b.findIndex((v, i) => weld[v] === weld[a[(k + 1) % 3]!] && weld[b[(i + 1) % 3]!] === weld[a[k]!]);
      if (j >= 0) return [{ one: t, other: t + 1, face: quadAt(mesh, t, k, t + 1, j) }];
    }
    return [];
  });
}

/** All pairs over a common edge that make a convex quad. */
function pairsOf(mesh: MeshData, triangles: readonly number[], weld: Int32Array): Pairing[] {
  const edges = new Map<number, readonly [triangle: number, corner: number]>();
  const pairs: Pairing[] = [];
  for (const t of triangles) {
    const corners = cornersOf(mesh, t);
    corners.forEach((v, k) => {
      const edge = edgeOf(weld, v, corners[(k + 1) % 3]!);
      const before = edges.get(edge);
      if (!before) {
        edges.set(edge, [t, k]);
        return;
      }
      const face = quadAt(mesh, before[0], before[1], t, k);
      // Faces that go along the edge the same way lie over each other there, or one is turned over.
      const opposite = weld[v] !== weld[face[0]];
      if (!opposite || !isConvex(mesh, face)) return;
      pairs.push({ one: before[0], other: t, face, cost: crookedness(mesh, face), longer: longerSides(mesh, face) });
    });
  }
  return pairs;
}

/**
 * Pairs what is left over by changing pairs along a path between two that are left: a matching grows by such paths (C. Berge,
 * 1957). Odd rounds are not contracted, so that now and then one is not found.
 */
function pairRest(triangles: readonly number[], pairs: readonly Pairing[], paired: Map<number, Pairing>): void {
  const free = triangles.filter((t) => !paired.has(t));
  if (free.length < 2) return;
  const around = new Map<number, Pairing[]>();
  for (const pair of pairs) for (const t of [pair.one, pair.other]) around.set(t, [...(around.get(t) ?? []), pair]);
  const mateOf = (pair: Pairing, t: number): number => (pair.one === t ? pair.other : pair.one);
  for (const start of free) {
    if (paired.has(start)) continue;
    /** How a triangle was come to: by which new pair, from which. */
    const from = new Map<number, { readonly via: Pairing; readonly before: number }>();
    const seen = new Set([start]);
    const queue = [start];
    search: for (const t of queue)
      for (const via of around.get(t) ?? []) {
        const next = mateOf(via, t);
        if (seen.has(next)) continue;
        seen.add(next);
        const old = paired.get(next);
        if (old) {
          const beyond = mateOf(old, next);
          if (seen.has(beyond)) continue;
          seen.add(beyond);
          from.set(beyond, { via, before: t });
          queue.push(beyond);
          continue;
        }
        for (let [at, pair] = [t, via]; ;) {
          paired.set(pair.one, pair).set(pair.other, pair);
          const step = from.get(at);
          if (!step) break;
          [at, pair] = [step.before, step.via];
        }
        break search;
      }
  }
}
