import { boundsOf, indexOfAxis, trianglesOf, type Axis, type Fitted, type Part } from './fit.ts';
import { TRIANGLE_LIMIT, type MeshData } from './mesh.ts';
import { facesOf, type Face } from './quads.ts';
import { Rebuild } from './rebuild.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Most loops that may be added at once. */
export const LOOP_LIMIT = 128;
const HAIR = 1e-6;

/**
 * Cuts a part across an axis into `count + 1` equal shares of its extent there: rows that a pace, a bend or a warp can
 * be finer by. Lines that run along a row already cut nothing. New vertices lie on the old edges; a bent quad is halved
 * another way once it is cut. Each line that crosses a face may make two triangles more; refused where all could be
 * more than TRIANGLE_LIMIT. With `shares`, a number 0..1 for each vertex, shares of those are cut in place of the axis.
 */
export function withLoops(mesh: MeshData, part: Part, axis: Axis, count: number, shares?: Float64Array): Fitted {
  const k = indexOfAxis(axis);
  const bounds = shares ? ({ from: [0, 0], to: [1, 1] } as const) : boundsOf(mesh, part);
  if (!bounds || bounds.to[k] - bounds.from[k] < HAIR) return { problem: reasons.noExtent(axis) };
  const wanted = Math.min(Math.max(Math.round(count), 1), LOOP_LIMIT);
  const extent = bounds.to[k] - bounds.from[k];
  const lines = Array.from({ length: wanted }, (_, i) => bounds.from[k] + ((i + 1) / (wanted + 1)) * extent);
  const rebuilt = new Rebuild(mesh);
  const given = shares && [...shares];
  const along = (vertex: number): number => given?.[vertex] ?? rebuilt.uvOf(vertex)[k];
  const made = new Map<string, number>();
  /** The lines that lie wholly between two places. */
  const between = (from: number, to: number): number[] => {
    const at = (w: number): number => ((w - bounds.from[k]) / extent) * (wanted + 1) - 1;
    return lines
      .slice(Math.max(Math.floor(at(from)), 0), Math.max(Math.ceil(at(to)) + 1, 0))
      .filter((w) => w > from + HAIR && w < to - HAIR);
  };
  const edge = (a: number, b: number): number[] => {
    const [wa, wb] = [along(a), along(b)];
    const crossed = between(Math.min(wa, wb), Math.max(wa, wb));
    if (wa > wb) crossed.reverse();
    return crossed.map((w) => {
      const key = `${String(Math.min(a, b))} ${String(Math.max(a, b))} ${String(w)}`;
      let vertex = made.get(key);
      if (vertex === undefined)
        made.set(
          key,
          (vertex = a < b ? rebuilt.between(a, b, (w - wa) / (wb - wa)) : rebuilt.between(b, a, (w - wb) / (wa - wb))),
        );
      if (given) given[vertex] = w;
      return vertex;
    });
  };
  const faces = facesOf(mesh, part)
    .flatMap((face) => (given !== undefined || isConvex(face, (v) => rebuilt.uvOf(v)) ? [face] : halves(face)))
    .map((face) => {
      const ws = face.map(along);
      return { face, crossing: between(Math.min(...ws), Math.max(...ws)) };
    });
  // Each line that crosses a face makes at most two triangles more of it.
  const max = faces.reduce((sum, { crossing }) => sum + 2 * crossing.length, mesh.indices.length / 3);
  if (max > TRIANGLE_LIMIT)
    return {
      problem: `With ${String(wanted)} edge loops the mesh could have ${thousands(max)} triangles; the limit is ${thousands(TRIANGLE_LIMIT)}. Add fewer, or select less.`,
    };
  const chosen = new Set(trianglesOf(mesh, part));
  const triangles: number[] = [];
  mesh.indices.forEach((v, i) => {
    if (!chosen.has(Math.floor(i / 3))) triangles.push(v);
  });
  let cuts = 0;
  for (const { face, crossing } of faces) {
    const ring = crossing.length === 0 ? face : face.flatMap((v, i) => [v, ...edge(v, face[(i + 1) % face.length]!)]);
    if (ring.length === face.length) triangles.push(...fan(face));
    else {
      cuts++;
      for (const piece of slabs(ring, along, crossing)) triangles.push(...fan(piece));
    }
  }
  if (cuts === 0) return { problem: reasons.loopsAlready };
  return { mesh: rebuilt.finish(triangles) };
}

const thousands = (count: number): string => `${String(Math.ceil(count / 1000))} thousand`;

/** Whether a face turns one way all round on the UV plane: only such a one is cut right by lines. */
function isConvex(face: Face, uvOf: (vertex: number) => readonly [number, number]): boolean {
  const at = face.map(uvOf);
  const turns = at.map(([x, y], i) => {
    const [p, q] = [at[(i + 1) % at.length]!, at[(i + 2) % at.length]!];
    return (p[0] - x) * (q[1] - p[1]) - (p[1] - y) * (q[0] - p[0]);
  });
  return turns.every((turn) => turn >= 0) || turns.every((turn) => turn <= 0);
}

/** The two triangles that a quad came from: see facesOf. */
const halves = ([a, b, c, d]: Face): Face[] => [
  [a!, b!, c!],
  [a!, c!, d!],
];

const fan = (face: Face): number[] => face.slice(2).flatMap((v, i) => [face[0]!, face[i + 1]!, v]);

/** The pieces of a convex face between neighbouring lines. */
function slabs(ring: Face, along: (vertex: number) => number, lines: readonly number[]): Face[] {
  const ends = [-Infinity, ...lines, Infinity];
  return ends.slice(1).flatMap((to, i) => {
    const from = ends[i]!;
    const inside = ring.filter((v) => along(v) >= from - HAIR && along(v) <= to + HAIR);
    // A face that only touches a line from outside has nothing between.
    return inside.length > 2 && spans(inside, along) ? [inside] : [];
  });
}

const spans = (face: Face, along: (vertex: number) => number): boolean => {
  const ws = face.map(along);
  return Math.max(...ws) - Math.min(...ws) > 2 * HAIR;
};
