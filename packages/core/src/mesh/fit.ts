import { withUvs, type MeshData } from './mesh.ts';
import { metresAlong, uvAreaOf } from './slopes.ts';
import { reasons } from '../diagnostics/reasons.ts';

/**
 * What a fitting operation gives: the mesh with its new UVs, or why it cannot be done, as a sentence, and the triangles that
 * stand in its way.
 */
export type Fitted = { readonly mesh: MeshData } | { readonly problem: string; readonly triangles?: readonly number[] };

/** A part of a mesh: its vertices, as marks, 1 for those that belong to it. */
export type Part = Uint8Array;

const isIn = ({ indices }: MeshData, part: Part, triangle: number): boolean =>
  part[indices[triangle * 3]!] === 1 &&
  part[indices[triangle * 3 + 1]!] === 1 &&
  part[indices[triangle * 3 + 2]!] === 1;

/** The triangles of a part: those with all vertices in it. */
export function trianglesOf(mesh: MeshData, part: Part): number[] {
  const result: number[] = [];
  for (let t = 0; t < mesh.indices.length / 3; t++) if (isIn(mesh, part, t)) result.push(t);
  return result;
}

/** A rectangle of the UV plane. */
export interface Bounds {
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
}

/** The rectangle that a part's UVs take; undefined for no part. */
export function boundsOf({ uvs }: MeshData, part: Part): Bounds | undefined {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let v = 0; v < part.length; v++) {
    if (part[v] === 0) continue;
    left = Math.min(left, uvs[v * 2]!);
    right = Math.max(right, uvs[v * 2]!);
    top = Math.min(top, uvs[v * 2 + 1]!);
    bottom = Math.max(bottom, uvs[v * 2 + 1]!);
  }
  return left === Infinity ? undefined : { from: [left, top], to: [right, bottom] };
}

/** A linear map of the UV plane: u' = a u + b v + e, v' = c u + d v + f. */
export type UvMap = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

/** A map about a place that stays where it is. */
const about = ([x, y]: readonly [number, number], a: number, b: number, c: number, d: number): UvMap => [
  a,
  b,
  c,
  d,
  x - a * x - b * y,
  y - c * x - d * y,
];
const middleOf = ({ from, to }: Bounds): readonly [number, number] => [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];

export const translateUvs = (by: readonly [number, number]): UvMap => [1, 0, 0, 1, by[0], by[1]];
/** `angle` in degrees, against the clock as the layout is seen, with v running down. */
export function rotateUvs(bounds: Bounds, angle: number): UvMap {
  const [cos, sin] =
    angle % 90 === 0
      ? [
          [1, 0, -1, 0],
          [0, 1, 0, -1],
        ].map((of) => of[(((angle / 90) % 4) + 4) % 4]!)
      : [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  return about(middleOf(bounds), cos!, sin!, -sin!, cos!);
}
export const mirrorUvs = (bounds: Bounds, axis: 'u' | 'v'): UvMap =>
  about(middleOf(bounds), axis === 'u' ? -1 : 1, 0, 0, axis === 'v' ? -1 : 1);
export const scaleUvs = (around: readonly [number, number], u: number, v: number): UvMap => about(around, u, 0, 0, v);
/** Onto the square 0..1: each axis by itself, or both alike with the part in the middle. */
export function normaliseUvs({ from, to }: Bounds, alike: boolean): UvMap {
  const [width, height] = [Math.max(to[0] - from[0], 1e-9), Math.max(to[1] - from[1], 1e-9)];
  const [a, d] = alike ? [1 / Math.max(width, height), 1 / Math.max(width, height)] : [1 / width, 1 / height];
  return [a, 0, 0, d, 0.5 - (a * (from[0] + to[0])) / 2, 0.5 - (d * (from[1] + to[1])) / 2];
}

/** A part's UVs after a map; the rest stays. */
export const mapUvs = (mesh: MeshData, part: Part, [a, b, c, d, e, f]: UvMap): MeshData =>
  withUvs(mesh, (u, v, vertex) => (part[vertex] === 1 ? [a * u + b * v + e, c * u + d * v + f] : [u, v]));

/** What fitting says where there is no part to fit. */
export const NOTHING_SELECTED = {
  problem: reasons.nothingSelected,
} as const satisfies Fitted;

/** A part's UVs after a map that its bounds decide. */
export function mapUvsWithin(mesh: MeshData, part: Part, map: (bounds: Bounds) => UvMap): Fitted {
  const bounds = boundsOf(mesh, part);
  return bounds ? { mesh: mapUvs(mesh, part, map(bounds)) } : NOTHING_SELECTED;
}

/** The way that a scroll runs: along u or along v. */
export type Axis = 'u' | 'v';
export const indexOfAxis = (axis: Axis): 0 | 1 => (axis === 'u' ? 0 : 1);

/**
 * How many metres lie along one UV unit of an axis, at the middles of `count` equal shares of the part's extent on that
 * axis.
 */
export interface Pace {
  readonly from: number;
  readonly to: number;
  readonly metres: Float64Array;
}

/** The pace of a part by its triangles' slopes; undefined where it has no extent on the axis. */
export function paceOf(mesh: MeshData, part: Part, axis: Axis, count = 64): Pace | undefined {
  const bounds = boundsOf(mesh, part);
  const k = indexOfAxis(axis);
  if (!bounds || bounds.to[k] - bounds.from[k] < 1e-6) return undefined;
  const [from, to] = [bounds.from[k], bounds.to[k]];
  const step = (to - from) / count;
  const sums = new Float64Array(count);
  const weights = new Float64Array(count);
  const { uvs, indices } = mesh;
  for (let t = 0; t < indices.length / 3; t++) {
    if (!isIn(mesh, part, t)) continue;
    const metres = metresAlong(mesh, t, k);
    if (Number.isNaN(metres)) continue;
    const [a, b, c] = [
      uvs[indices[t * 3]! * 2 + k]!,
      uvs[indices[t * 3 + 1]! * 2 + k]!,
      uvs[indices[t * 3 + 2]! * 2 + k]!,
    ];
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)];
    // Weighted by area on the UV plane, so that the pace of a share times its extent is the way on the surface.
    const each = Math.abs(uvAreaOf(mesh, t)) / Math.max(high - low, 1e-9);
    const [first, last] = [
      Math.max(Math.floor((low - from) / step), 0),
      Math.min(Math.floor((high - from) / step), count - 1),
    ];
    for (let i = first; i <= last; i++) {
      const weight = Math.max(Math.min(high, from + (i + 1) * step) - Math.max(low, from + i * step), 0) * each;
      sums[i]! += metres * weight;
      weights[i]! += weight;
    }
  }
  const metres = sums.map((sum, i) => (weights[i]! > 0 ? sum / weights[i]! : NaN));
  // Gaps take over what lies before them.
  for (let i = 0; i < count; i++)
    if (Number.isNaN(metres[i])) metres[i] = metres[i - 1] ?? metres.find((m) => !Number.isNaN(m)) ?? 1;
  return { from, to, metres };
}

/** Shares of the extent that a pace is counted over when rows are moved. */
const FINE = 512;

/**
 * Spreads or gathers rows so that the same scroll runs at `speed` along the way: relative speeds above 0 by the share
 * 0..1 of the way
 * on the surface, in metres. The part keeps its extent on the axis. With way s and pace ds/dw asked to be proportional
 * to speed(s),
 * the new place of s is w(s) = integral of ds / speed(s), scaled to the extent.
 */
export function repaceUvs(mesh: MeshData, part: Part, axis: Axis, speed: (share: number) => number): Fitted {
  const pace = paceOf(mesh, part, axis, FINE);
  if (!pace) return { problem: reasons.noExtent(axis) };
  const { from, to, metres } = pace;
  const way = new Float64Array(FINE + 1);
  for (let i = 0; i < FINE; i++) way[i + 1] = way[i]! + metres[i]!;
  const whole = way[FINE]!;
  if (!(whole > 0)) return { problem: reasons.noLength };
  const place = new Float64Array(FINE + 1);
  for (let i = 0; i < FINE; i++) {
    const slow = speed((way[i]! + way[i + 1]!) / 2 / whole);
    place[i + 1] = place[i]! + (way[i + 1]! - way[i]!) / Math.max(slow, 1e-3);
  }
  const k = indexOfAxis(axis);
  return {
    mesh: withUvs(mesh, (u, v, vertex) => {
      if (part[vertex] !== 1) return [u, v];
      const at = Math.min(Math.max(((k === 0 ? u : v) - from) / (to - from), 0), 1) * FINE;
      const i = Math.min(Math.floor(at), FINE - 1);
      const w = from + ((place[i]! + (place[i + 1]! - place[i]!) * (at - i)) / place[FINE]!) * (to - from);
      return k === 0 ? [w, v] : [u, w];
    }),
  };
}

/**
 * Smooth relative speeds through points of a curve that lie at equal shares of the way: monotone cubics (Fritsch and
 * Carlson, 1980), so that nothing overshoots.
 */
export function speedThrough(points: readonly number[]): (share: number) => number {
  const n = points.length - 1;
  if (n < 1) return () => points[0] ?? 1;
  const rise = points.slice(1).map((p, i) => p - points[i]!);
  const slope = points.map((_, i) => {
    const [before, after] = [rise[i - 1] ?? rise[0]!, rise[i] ?? rise[n - 1]!];
    return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
  });
  return (share) => {
    const at = Math.min(Math.max(share, 0), 1) * n;
    const i = Math.min(Math.floor(at), n - 1);
    const t = at - i;
    const [t2, t3] = [t * t, t * t * t];
    return (
      points[i]! * (2 * t3 - 3 * t2 + 1) +
      slope[i]! * (t3 - 2 * t2 + t) +
      points[i + 1]! * (3 * t2 - 2 * t3) +
      slope[i + 1]! * (t3 - t2)
    );
  };
}
