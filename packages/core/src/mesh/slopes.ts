import { cornersOf, positionOf, type MeshData } from './mesh.ts';
import { cross, dot, length, minus, plus, times, type Vector } from './vector.ts';

/** How a place on a triangle moves as its UV does: metres a UV unit. */
export interface Slopes {
  readonly alongU: Vector;
  readonly alongV: Vector;
}

/** The slopes of a triangle, the inverse of its UV Jacobian; undefined where its UVs span no area. */
export function slopesOf(mesh: MeshData, triangle: number): Slopes | undefined {
  const area = uvAreaOf(mesh, triangle);
  if (Math.abs(area) < 1e-12) return undefined;
  const [a, b, c] = cornersOf(mesh, triangle);
  const { uvs } = mesh;
  const [u1, v1, u2, v2] = [
    uvs[b * 2]! - uvs[a * 2]!,
    uvs[b * 2 + 1]! - uvs[a * 2 + 1]!,
    uvs[c * 2]! - uvs[a * 2]!,
    uvs[c * 2 + 1]! - uvs[a * 2 + 1]!,
  ];
  const from = positionOf(mesh, a);
  const [e, f] = [minus(positionOf(mesh, b), from), minus(positionOf(mesh, c), from)];
  return {
    alongU: times(minus(times(e, v2), times(f, v1)), 1 / area),
    alongV: times(minus(times(f, u1), times(e, u2)), 1 / area),
  };
}

/**
 * Twice the area that a triangle covers of the UV plane, positive where it goes with the clock as seen with v running
 * down.
 */
export function uvAreaOf({ uvs, indices }: MeshData, triangle: number): number {
  const [a, b, c] = [indices[triangle * 3]! * 2, indices[triangle * 3 + 1]! * 2, indices[triangle * 3 + 2]! * 2];
  return (uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[c]! - uvs[a]!) * (uvs[b + 1]! - uvs[a + 1]!);
}

/**
 * Metres a UV unit along one axis, 0 for u and 1 for v, on a triangle: the length of its slope, without the vector. NaN
 * where its UVs span no area.
 */
export function metresAlong(mesh: MeshData, triangle: number, axis: 0 | 1): number {
  const area = uvAreaOf(mesh, triangle);
  if (Math.abs(area) < 1e-12) return NaN;
  const { uvs, positions, indices } = mesh;
  const [a, b, c] = [indices[triangle * 3]!, indices[triangle * 3 + 1]!, indices[triangle * 3 + 2]!];
  const other = 1 - axis;
  const [s, t] = [uvs[b * 2 + other]! - uvs[a * 2 + other]!, uvs[c * 2 + other]! - uvs[a * 2 + other]!];
  let sum = 0;
  for (let k = 0; k < 3; k++) {
    const from = positions[a * 3 + k]!;
    sum += ((positions[b * 3 + k]! - from) * t - (positions[c * 3 + k]! - from) * s) ** 2;
  }
  return Math.sqrt(sum) / Math.abs(area);
}

/** A value for each of size by size places of the UV square; reads beyond its edges go round. */
function read(field: Float32Array, size: number, u: number, v: number): readonly [number, number] {
  const [x, y] = [u, v].map((c) => Math.min(Math.floor((c - Math.floor(c)) * size), size - 1)) as [number, number];
  const at = (y * size + x) * 2;
  return [field[at]!, field[at + 1]!];
}

/**
 * Metres a second at the middle of each triangle of what moves over the square by `field` (see velocityField), with the
 * way it goes; NaN where it cannot be told.
 */
export function surfaceVelocities(mesh: MeshData, field: Float32Array, size: number): Float32Array {
  const count = mesh.indices.length / 3;
  const result = new Float32Array(count * 3).fill(NaN);
  for (let t = 0; t < count; t++) {
    const slopes = slopesOf(mesh, t);
    if (!slopes) continue;
    const corners = cornersOf(mesh, t);
    const middle = (axis: 0 | 1): number => corners.reduce((sum, v) => sum + mesh.uvs[v * 2 + axis]!, 0) / 3;
    const [du, dv] = read(field, size, middle(0), middle(1));
    result.set(plus(times(slopes.alongU, du), times(slopes.alongV, dv)), t * 3);
  }
  return result;
}

/** Lengths of vectors of three. */
export const lengthsOf = (vectors: Float32Array): Float32Array =>
  Float32Array.from({ length: vectors.length / 3 }, (_, i) =>
    Math.hypot(vectors[i * 3]!, vectors[i * 3 + 1]!, vectors[i * 3 + 2]!),
  );

/**
 * How many times longer a texel of each triangle is one way than the other: the quotient of its Jacobian's singular
 * values, 1 for none; Infinity where its UVs span no area, NaN where it has none itself.
 */
export function stretches(mesh: MeshData): Float32Array {
  return Float32Array.from({ length: mesh.indices.length / 3 }, (_, t) => {
    const [p, q, r] = cornersOf(mesh, t).map((at) => positionOf(mesh, at)) as [Vector, Vector, Vector];
    const [e, f] = [minus(q, p), minus(r, p)];
    if (length(cross(e, f)) <= 1e-9 * Math.max(dot(e, e), dot(f, f))) return NaN;
    const slopes = slopesOf(mesh, t);
    if (!slopes) return Infinity;
    const { alongU: u, alongV: v } = slopes;
    const [a, b, c] = [dot(u, u), dot(u, v), dot(v, v)];
    const apart = Math.sqrt((a - c) ** 2 + 4 * b * b);
    const small = a + c - apart;
    return small <= 1e-12 * (a + c) ? Infinity : Math.sqrt((a + c + apart) / small);
  });
}

/** A place on a surface, and which way it faces. */
export interface SurfacePlace {
  readonly position: Vector;
  readonly normal: Vector;
  readonly triangle: number;
}

/** About `count` places spread over a mesh by area, the same ones each time (one in each equal share of the area). */
export function spreadOver(mesh: MeshData, count: number): SurfacePlace[] {
  const triangles = mesh.indices.length / 3;
  const sums = new Float64Array(triangles + 1);
  const normals: Vector[] = [];
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = cornersOf(mesh, t).map((v) => positionOf(mesh, v)) as [Vector, Vector, Vector];
    const n = cross(minus(b, a), minus(c, a));
    normals.push(n);
    sums[t + 1] = sums[t]! + length(n);
  }
  const whole = sums[triangles]!;
  const places: SurfacePlace[] = [];
  let t = 0;
  for (let i = 0; i < count && whole > 0; i++) {
    // Within its triangle a place is spread by the R2 sequence (M. Roberts, 2018).
    const wanted = ((i + 0.5) / count) * whole;
    while (t < triangles - 1 && sums[t + 1]! < wanted) t++;
    let [s, r] = [(0.5 + i * 0.7548776662466927) % 1, (0.5 + i * 0.5698402909980532) % 1];
    if (s + r > 1) [s, r] = [1 - s, 1 - r];
    const [a, b, c] = cornersOf(mesh, t).map((v) => positionOf(mesh, v)) as [Vector, Vector, Vector];
    const n = normals[t]!;
    places.push({
      position: plus(a, plus(times(minus(b, a), s), times(minus(c, a), r))),
      normal: times(n, 1 / length(n)),
      triangle: t,
    });
  }
  return places;
}
