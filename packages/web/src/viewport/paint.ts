import { colorOfHex, cross, mergeMeshes, spreadOver, type MeshData, type UvSeam, type Vector } from '@estela/core';
import { tokens } from '../ui/tokens.ts';
import { derive, type Look } from '../material/look.ts';

/** Linear red, green, blue and alpha. */
type Ink = readonly number[];
export const inkOf = (hex: string): Ink => colorOfHex(hex);

/** A ramp of inks; `share` is held to 0..1. */
export function rampOf(hexes: readonly string[]): (share: number) => Ink {
  const inks = hexes.map(inkOf);
  return (share) => {
    const at = Math.min(Math.max(share, 0), 1) * (inks.length - 1);
    const i = Math.min(Math.floor(at), inks.length - 2);
    return inks[i]!.map((c, k) => c + (inks[i + 1]![k]! - c) * (at - i));
  };
}

/** From slow to fast, and from even to stretched. */
export const SPEED_INKS = ['#24231f', tokens.amber, tokens.text] as const;
export const STRETCH_INKS = ['#4a4843', tokens.bone, tokens.coral] as const;

/** A mesh in one ink for each triangle. */
export function painted(mesh: MeshData, inkOfTriangle: (triangle: number) => Ink): MeshData {
  const { indices } = mesh;
  const spread = (values: Float32Array, width: number): Float32Array =>
    Float32Array.from(
      { length: indices.length * width },
      (_, i) => values[indices[Math.floor(i / width)]! * width + (i % width)]!,
    );
  const colors = new Float32Array(indices.length * 4);
  for (let t = 0; t < indices.length / 3; t++) {
    const ink = inkOfTriangle(t);
    for (let k = 0; k < 3; k++) colors.set(ink, (t * 3 + k) * 4);
  }
  return {
    positions: spread(mesh.positions, 3),
    normals: spread(mesh.normals, 3),
    uvs: spread(mesh.uvs, 2),
    colors,
    indices: Uint32Array.from(indices, (_, i) => i),
  };
}

const along = (a: Vector, b: Vector, by: number): Vector => [a[0] + b[0] * by, a[1] + b[1] * by, a[2] + b[2] * by];

/** Flat polygons in one ink, each a fan of its corners. */
function polygons(
  shapes: readonly { readonly corners: readonly Vector[]; readonly normal: Vector }[],
  ink: Ink,
): MeshData {
  const [positions, normals, indices]: [number[], number[], number[]] = [[], [], []];
  for (const { corners, normal } of shapes) {
    const start = positions.length / 3;
    for (const c of corners) {
      positions.push(...c);
      normals.push(...normal);
    }
    for (let i = 2; i < corners.length; i++) indices.push(start, start + i - 1, start + i);
  }
  const count = positions.length / 3;
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: new Float32Array(count * 2),
    colors: Float32Array.from({ length: count * 4 }, (_, i) => ink[i % 4]!),
    indices: Uint32Array.from(indices),
  };
}

/** How many arrows lie on a surface. */
const ARROWS = 170;

/**
 * Arrows on both sides of a surface, along the velocities of its triangles, the longest for the fastest; dots where
 * nothing moves. `radius` is that of the mesh.
 */
export function arrowsOn(mesh: MeshData, velocities: Float32Array, fastest: number, radius: number): MeshData {
  const longest = radius * 0.19;
  const moving: { corners: Vector[]; normal: Vector }[] = [];
  const still: { corners: Vector[]; normal: Vector }[] = [];
  for (const { position, normal, triangle } of spreadOver(mesh, ARROWS)) {
    const v = [...velocities.slice(triangle * 3, triangle * 3 + 3)] as unknown as Vector;
    const speed = Math.hypot(...v);
    for (const side of [1, -1] as const) {
      const up: Vector = [normal[0] * side, normal[1] * side, normal[2] * side];
      const at = along(position, up, radius * 0.006);
      if (!(speed > fastest * 0.01) || fastest < 1e-6) still.push({ corners: dot(at, up, radius * 0.006), normal: up });
      else
        moving.push(
          ...arrow(
            at,
            [v[0] / speed, v[1] / speed, v[2] / speed],
            up,
            longest * (0.35 + 0.65 * (speed / fastest)),
            radius,
          ),
        );
    }
  }
  return mergeMeshes([polygons(moving, inkOf(tokens.amber)), polygons(still, inkOf(tokens.bone))]);
}

function dot(at: Vector, up: Vector, size: number): Vector[] {
  const right = cross(Math.abs(up[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0], up);
  const ahead = cross(up, right);
  return [0, 1, 2, 3, 4, 5].map((i) =>
    along(along(at, right, size * Math.cos((i * Math.PI) / 3)), ahead, size * Math.sin((i * Math.PI) / 3)),
  );
}

/** A shaft and a head, its middle at a place. */
function arrow(
  at: Vector,
  heading: Vector,
  up: Vector,
  length: number,
  radius: number,
): { corners: Vector[]; normal: Vector }[] {
  const side = cross(up, heading);
  const [half, head] = [radius * 0.006, Math.min(radius * 0.05, length * 0.5)];
  const corner = (ahead: number, aside: number): Vector => along(along(at, heading, ahead), side, aside);
  const [tail, neck, tip] = [-length / 2, length / 2 - head, length / 2];
  return [
    { corners: [corner(tail, -half), corner(neck, -half), corner(neck, half), corner(tail, half)], normal: up },
    { corners: [corner(neck, -half * 3.2), corner(tip, 0), corner(neck, half * 3.2)], normal: up },
  ];
}

/** Seams as bars on the surface: bone where the material meets itself, broad and coral where it does not. */
export function seamBars(
  { positions, normals }: MeshData,
  seams: readonly UvSeam[],
  breaks: (seam: number) => boolean,
  radius: number,
): MeshData {
  const at = (values: Float32Array, v: number): Vector => [values[v * 3]!, values[v * 3 + 1]!, values[v * 3 + 2]!];
  const bars = (broken: boolean): { corners: Vector[]; normal: Vector }[] =>
    seams.flatMap(({ ends: [a, b] }, i) => {
      if (breaks(i) !== broken) return [];
      const [p, q] = [at(positions, a), at(positions, b)];
      const long = Math.hypot(q[0] - p[0], q[1] - p[1], q[2] - p[2]) || 1;
      const heading: Vector = [(q[0] - p[0]) / long, (q[1] - p[1]) / long, (q[2] - p[2]) / long];
      const half = radius * (broken ? 0.012 : 0.005);
      return [1, -1].map((face) => {
        const up = at(normals, a).map((x) => x * face) as unknown as Vector;
        const side = cross(up, heading);
        const lift = (c: Vector): Vector => along(c, up, radius * 0.006);
        return {
          corners: [
            along(lift(p), side, -half),
            along(lift(q), side, -half),
            along(lift(q), side, half),
            along(lift(p), side, half),
          ],
          normal: up,
        };
      });
    });
  return mergeMeshes([polygons(bars(false), inkOf(tokens.bone)), polygons(bars(true), inkOf(tokens.coral))]);
}

let looks: { readonly paint: Look; readonly grid: Look } | undefined;
/**
 * Materials of the lenses: the colours of a mesh's vertices, a little darker where it turns away; and the labelled grid
 * that stands in for a missing picture.
 */
export const lensLooks = (): NonNullable<typeof looks> =>
  (looks ??= {
    paint: derive(
      'loop 1s at 30fps\nsurface unlit opaque two-sided\nout color = vertex_color.rgb * (0.72 + 0.28 * facing())\n',
    ).look,
    grid: derive(
      'loop 1s at 30fps\nsurface unlit opaque two-sided\nimage squares = "no such picture" repeat linear color\nout color = (uv |> sample(squares)).rgb\n',
    ).look,
  });

/** The edges of a box about a mesh, as thin bars. */
export function boxAbout(middle: Vector, size: Vector): MeshData {
  const half = size.map((s) => s / 2 + 0.004) as unknown as Vector;
  const thin = Math.max(...size) * 0.004;
  const bars: { corners: Vector[]; normal: Vector }[] = [];
  for (const axis of [0, 1, 2] as const) {
    const [b, c] = [(axis + 1) % 3, (axis + 2) % 3] as [0 | 1 | 2, 0 | 1 | 2];
    for (const [s, t] of [
      [1, 1],
      [1, -1],
      [-1, 1],
      [-1, -1],
    ] as const)
      for (const across of [b, c]) {
        const corner = (end: number, aside: number): Vector => {
          const at: [number, number, number] = [0, 0, 0];
          at[axis] = middle[axis] + half[axis] * end;
          at[b] = middle[b] + half[b] * s + (across === b ? aside : 0);
          at[c] = middle[c] + half[c] * t + (across === c ? aside : 0);
          return at;
        };
        const normal: [number, number, number] = [0, 0, 0];
        normal[across === b ? c : b] = 1;
        bars.push({ corners: [corner(-1, -thin), corner(1, -thin), corner(1, thin), corner(-1, thin)], normal });
      }
  }
  return polygons(bars, inkOf(tokens.bone));
}
