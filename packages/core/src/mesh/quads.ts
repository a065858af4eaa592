import { trianglesOf, type Part } from './fit.ts';
import { cornersOf, positionOf, type MeshData } from './mesh.ts';
import { dot, minus, unit, type Vector } from './vector.ts';
import { weldedPoints } from './weld.ts';

/** Faces of three or four vertices, in order round them. */
export type Face = readonly number[];

/** How far the corners of a face are from right ones, summed cosines. */
function crookedness(mesh: MeshData, face: Face): number {
  const at = face.map((v) => positionOf(mesh, v));
  return at.reduce((sum, p, i) => {
    const [before, after] = [at[(i + at.length - 1) % at.length]!, at[(i + 1) % at.length]!];
    return sum + Math.abs(dot(unit(minus(before, p), [0, 0, 0] as Vector), unit(minus(after, p), [0, 0, 0] as Vector)));
  }, 0);
}

/**
 * The quads that a part's triangles were cut from: pairs over a common edge, most nearly rectangular ones first. What is left over stays
 * a triangle. Files keep triangles only; those of a quad mostly stand beside each other, which decides between equals.
 */
export function facesOf(mesh: MeshData, part: Part): Face[] {
  const points = weldedPoints(mesh);
  const triangles = trianglesOf(mesh, part).filter((t) => {
    const [a, b, c] = cornersOf(mesh, t).map((v) => points[v]) as [number, number, number];
    return a !== b && b !== c && a !== c;
  });
  const edges = new Map<number, readonly [triangle: number, corner: number]>();
  const pairs: { readonly one: number; readonly other: number; readonly face: Face; readonly cost: number }[] = [];
  const key = (a: number, b: number): number => Math.min(points[a]!, points[b]!) * points.length + Math.max(points[a]!, points[b]!);
  for (const t of triangles) {
    const corners = cornersOf(mesh, t);
    corners.forEach((v, k) => {
      const edge = key(v, corners[(k + 1) % 3]!);
      const before = edges.get(edge);
      if (!before) {
        edges.set(edge, [t, k]);
        return;
      }
      const [one, at] = before;
      const first = cornersOf(mesh, one);
      const face = [first[at]!, corners[(k + 2) % 3]!, first[(at + 1) % 3]!, first[(at + 2) % 3]!];
      pairs.push({ one, other: t, face, cost: crookedness(mesh, face) + (Math.abs(t - one) === 1 && Math.min(t, one) % 2 === 0 ? 0 : 0.2) });
    });
  }
  const taken = new Set<number>();
  const faces: Face[] = [];
  for (const { one, other, face } of pairs.sort((a, b) => a.cost - b.cost)) {
    if (taken.has(one) || taken.has(other)) continue;
    taken.add(one).add(other);
    faces.push(face);
  }
  for (const t of triangles) if (!taken.has(t)) faces.push(cornersOf(mesh, t));
  return faces;
}
