import { trianglesOf, type Part } from './fit.ts';
import { cornersOf, positionOf, type MeshData } from './mesh.ts';
import { dot, length, minus, unit, type Vector } from './vector.ts';
import { weldedPoints } from './weld.ts';

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

/**
 * The quads that a part's triangles were cut from: files keep triangles only, but those of a quad mostly stand beside
 * each other. Others are paired over a common edge, most nearly rectangular ones first. What is left over stays a
 * triangle.
 */
export function facesOf(mesh: MeshData, part: Part): Face[] {
  const points = weldedPoints(mesh);
  const triangles = trianglesOf(mesh, part).filter((t) => {
    const [a, b, c] = cornersOf(mesh, t).map((v) => points[v]) as [number, number, number];
    return a !== b && b !== c && a !== c;
  });
  /**
   * The quad of two triangles with a common edge: that which starts at corner `k` of the first, and at `j` of the
   * second.
   */
  const quad = (one: number, k: number, other: number, j: number): Quad => {
    const [first, second] = [cornersOf(mesh, one), cornersOf(mesh, other)];
    return [first[k]!, second[(j + 2) % 3]!, first[(k + 1) % 3]!, first[(k + 2) % 3]!];
  };
  const taken = new Set<number>();
  const faces: Face[] = [];
  const take = (one: number, other: number, face: Face): void => {
    taken.add(one).add(other);
    faces.push(face);
  };
  const inPart = new Set(triangles);
  const beside = triangles.flatMap((t) => {
    if (t % 2 !== 0 || !inPart.has(t + 1)) return [];
    const [a, b] = [cornersOf(mesh, t), cornersOf(mesh, t + 1)];
    for (let k = 0; k < 3; k++) {
      const j = b.findIndex(
        (v, i) => points[v] === points[a[(k + 1) % 3]!] && points[b[(i + 1) % 3]!] === points[a[k]!],
      );
      if (j >= 0) return [{ t, face: quad(t, k, t + 1, j) }];
    }
    return [];
  });
  // Where all of them are quads that way, they were quads before, however they lean.
  const whole = beside.length * 2 === triangles.length && beside.every(({ face }) => isConvex(mesh, face));
  for (const { t, face } of beside) if (whole || crookedness(mesh, face) <= CLEAR) take(t, t + 1, face);
  const edges = new Map<number, readonly [triangle: number, corner: number]>();
  const pairs: { readonly one: number; readonly other: number; readonly face: Face; readonly cost: number }[] = [];
  for (const t of triangles) {
    if (taken.has(t)) continue;
    const corners = cornersOf(mesh, t);
    corners.forEach((v, k) => {
      const [a, b] = [points[v]!, points[corners[(k + 1) % 3]!]!];
      const edge = Math.min(a, b) * points.length + Math.max(a, b);
      const before = edges.get(edge);
      if (!before) edges.set(edge, [t, k]);
      else {
        const face = quad(before[0], before[1], t, k);
        // Faces that go along the edge the same way lie over each other there, or one is turned over.
        const opposite = points[v] !== points[face[0]];
        if (opposite && isConvex(mesh, face))
          pairs.push({ one: before[0], other: t, face, cost: crookedness(mesh, face) });
      }
    });
  }
  for (const { one, other, face } of pairs.sort((a, b) => a.cost - b.cost))
    if (!taken.has(one) && !taken.has(other)) take(one, other, face);
  for (const t of triangles) if (!taken.has(t)) faces.push(cornersOf(mesh, t));
  return faces;
}
