import { NOTHING_SELECTED, trianglesOf, type Fitted, type Part } from './fit.ts';
import { cornersOf, positionOf, withUvs, type MeshData } from './mesh.ts';
import { Rebuild } from './rebuild.ts';
import { cross, dot, length, minus, plus, times, unit, type Vector } from './vector.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** The axis that UVs are laid about: one of space, or the mean way that the faces look. */
export type LayoutAxis = 'x' | 'y' | 'z' | 'faces';
const AXES: Record<Exclude<LayoutAxis, 'faces'>, Vector> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

interface Frame {
  readonly axis: Vector;
  /** With the axis towards the viewer: right and up. */
  readonly right: Vector;
  readonly up: Vector;
  /** Mean of the faces by area. */
  readonly middle: Vector;
}

function frameOf(mesh: MeshData, triangles: readonly number[], wanted: LayoutAxis): Frame {
  let [sum, weight]: [Vector, number] = [[0, 0, 0], 0];
  let faces: Vector = [0, 0, 0];
  for (const t of triangles) {
    const [a, b, c] = cornersOf(mesh, t).map((v) => positionOf(mesh, v)) as [Vector, Vector, Vector];
    const n = cross(minus(b, a), minus(c, a));
    faces = plus(faces, n);
    const area = length(n);
    sum = plus(sum, times(plus(a, plus(b, c)), area / 3));
    weight += area;
  }
  // A closed surface looks nowhere on the whole; it mostly stands upright.
  const axis = wanted === 'faces' ? (length(faces) > weight * 1e-3 ? unit(faces) : AXES.y) : AXES[wanted];
  const upward = Math.abs(axis[1]) > 0.9 ? ([0, 0, -1] as const) : AXES.y;
  const right = unit(cross(upward, axis));
  return { axis, right, up: cross(axis, right), middle: weight > 0 ? times(sum, 1 / weight) : [0, 0, 0] };
}

/** Lays a part flat as seen along an axis, in its proportions, the longer side from 0 to 1. */
export function planar(mesh: MeshData, part: Part, wanted: LayoutAxis): Fitted {
  const triangles = trianglesOf(mesh, part);
  if (triangles.length === 0) return NOTHING_SELECTED;
  const { right, up, middle } = frameOf(mesh, triangles, wanted);
  const at = (vertex: number): readonly [number, number] => {
    const from = minus(positionOf(mesh, vertex), middle);
    return [dot(from, right), -dot(from, up)];
  };
  const [low, high] = [
    [Infinity, Infinity],
    [-Infinity, -Infinity],
  ] as [number[], number[]];
  part.forEach((mark, vertex) => {
    if (mark === 1)
      at(vertex).forEach((x, k) => {
        low[k] = Math.min(low[k]!, x);
        high[k] = Math.max(high[k]!, x);
      });
  });
  const size = Math.max(high[0]! - low[0]!, high[1]! - low[1]!);
  if (size < 1e-9) return { problem: reasons.seenEdgeOn };
  const place = (x: number, k: 0 | 1): number => 0.5 + (x - (low[k]! + high[k]!) / 2) / size;
  return {
    mesh: withUvs(mesh, (u, v, vertex) => {
      if (part[vertex] !== 1) return [u, v];
      const [x, y] = at(vertex);
      return [place(x, 0), place(y, 1)];
    }),
  };
}

const TAU = 2 * Math.PI;

/** u around the axis, to the right as seen from outside; v down along it. */
export function cylindrical(mesh: MeshData, part: Part, wanted: LayoutAxis): Fitted {
  const triangles = trianglesOf(mesh, part);
  if (triangles.length === 0) return NOTHING_SELECTED;
  const frame = frameOf(mesh, triangles, wanted);
  // Seen from outside, with the axis up, what turns against the clock about it goes to the right. An upright one is cut
  // at its back.
  return around(mesh, part, triangles, frame, 0.25, (_, height) => -height, reasons.flatAlongAxis);
}

/** u around the middle, against the clock as seen from outside; v outward, along the slope of a cone. */
export function unrolled(mesh: MeshData, part: Part, wanted: LayoutAxis): Fitted {
  const triangles = trianglesOf(mesh, part);
  if (triangles.length === 0) return NOTHING_SELECTED;
  const frame = frameOf(mesh, triangles, wanted);
  let [nearest, tip] = [Infinity, 0];
  part.forEach((mark, vertex) => {
    if (mark !== 1) return;
    const { radius, height } = polar(mesh, vertex, frame);
    if (radius < nearest) [nearest, tip] = [radius, height];
  });
  return around(
    mesh,
    part,
    triangles,
    frame,
    0,
    (radius, height) => Math.hypot(radius, height - tip),
    reasons.noRadius,
  );
}

function polar(
  mesh: MeshData,
  vertex: number,
  { axis, right, up, middle }: Frame,
): { readonly turn: number; readonly radius: number; readonly height: number } {
  const from = minus(positionOf(mesh, vertex), middle);
  const [x, y] = [dot(from, right), dot(from, up)];
  return { turn: Math.atan2(y, x) / TAU, radius: Math.hypot(x, y), height: dot(from, axis) };
}

/**
 * UVs of turns about an axis by something along it, cut open at a vertex near the turn `start`; a vertex on the axis is
 * one for each of its triangles.
 */
function around(
  mesh: MeshData,
  part: Part,
  triangles: readonly number[],
  frame: Frame,
  start: number,
  alongOf: (radius: number, height: number) => number,
  flat: string,
): Fitted {
  const count = mesh.positions.length / 3;
  const [turns, alongs, radii] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  let [low, high, widest] = [Infinity, -Infinity, 0];
  part.forEach((mark, vertex) => {
    if (mark !== 1) return;
    const { turn, radius, height } = polar(mesh, vertex, frame);
    [turns[vertex], radii[vertex], alongs[vertex]] = [turn, radius, alongOf(radius, height)];
    low = Math.min(low, alongs[vertex]);
    high = Math.max(high, alongs[vertex]);
    widest = Math.max(widest, radius);
  });
  if (high - low < 1e-6 * Math.max(widest, 1e-6)) return { problem: flat };
  const onAxis = (vertex: number): boolean => radii[vertex]! < widest * 1e-4;
  // The cut goes through a vertex, so that no face lies over it where rows run along the axis.
  let cut = start;
  let best = Infinity;
  for (const t of triangles)
    for (const v of cornersOf(mesh, t)) {
      const off = Math.abs(nearest(turns[v]! - start));
      if (!onAxis(v) && off < best - 1e-9) [best, cut] = [off, turns[v]!];
    }
  const rebuilt = new Rebuild(mesh);
  const indices = [...mesh.indices];
  const made = new Map<string, number>();
  for (const t of triangles) {
    const corners = cornersOf(mesh, t);
    const first = corners.find((v) => !onAxis(v));
    if (first === undefined) continue;
    const from = turns[first]! - cut;
    const us = corners.map((v) => {
      const u = turns[v]! - cut;
      return onAxis(v) ? NaN : u - Math.round(u - from);
    });
    if (corners.every((v) => !onAxis(v))) {
      const steps = us.map((u, k) => nearest(us[(k + 1) % 3]! - u));
      // Once round, or an edge right through the middle.
      if (Math.abs(steps.reduce((a, b) => a + b, 0)) > 0.5 || steps.some((step) => Math.abs(step) > 0.5 - 1e-6))
        return {
          problem: reasons.coversMiddle,
        };
    }
    const known = us.filter((u) => !Number.isNaN(u));
    const mean = known.reduce((a, b) => a + b, 0) / known.length;
    // A hair, so that a face that ends at the cut does not fall to its other side.
    const lift = Math.floor(mean + 1e-9);
    corners.forEach((v, k) => {
      const u = (Number.isNaN(us[k]) ? mean : us[k]!) - lift;
      const key = `${String(v)} ${u.toFixed(6)}`;
      let vertex = made.get(key);
      if (vertex === undefined) made.set(key, (vertex = rebuilt.copy(v, u, (alongs[v]! - low) / (high - low))));
      indices[t * 3 + k] = vertex;
    });
  }
  return { mesh: rebuilt.finish(indices) };
}

/** A difference of turns, at most half a turn either way. */
const nearest = (turn: number): number => turn - Math.round(turn);
