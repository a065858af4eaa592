import { indexOfAxis, NOTHING_CHOSEN, type Axis, type Fitted, type Part } from './fit.ts';
import { positionOf, withUvs, type MeshData } from './mesh.ts';
import { facesOf, type Face } from './quads.ts';
import { length, minus } from './vector.ts';
import { weldedPlaces, weldedPoints } from './weld.ts';

/** Whole coordinates of the points of a strip: columns and rows. */
type Lattice = Map<number, readonly [number, number]>;

/** Counts columns and rows through quads that hang together; undefined where they do not close to a lattice. */
function latticeOf(quads: readonly Face[], points: Int32Array): Lattice | undefined {
  const edges = new Map<number, number[]>();
  const key = (a: number, b: number): number =>
    Math.min(points[a]!, points[b]!) * points.length + Math.max(points[a]!, points[b]!);
  quads.forEach((quad, q) => {
    quad.forEach((v, k) => {
      const edge = key(v, quad[(k + 1) % 4]!);
      const known = edges.get(edge);
      if (known) known.push(q);
      else edges.set(edge, [q]);
    });
  });
  const lattice: Lattice = new Map();
  const [start] = quads;
  if (!start) return undefined;
  const done = new Set<number>([0]);
  const square = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ] as const;
  start.forEach((v, k) => lattice.set(points[v]!, square[k]!));
  const queue = [0];
  // It grows as it is gone through.
  for (const q of queue) {
    const quad = quads[q]!;
    for (let k = 0; k < 4; k++) {
      for (const next of edges.get(key(quad[k]!, quad[(k + 1) % 4]!)) ?? []) {
        if (done.has(next)) continue;
        done.add(next);
        queue.push(next);
        const other = quads[next]!;
        // The common edge, as the neighbour goes round it, and the step from it to the neighbour's far side.
        const j = other.findIndex((v, i) => key(v, other[(i + 1) % 4]!) === key(quad[k]!, quad[(k + 1) % 4]!));
        const [a, b, c, d] = [0, 1, 2, 3].map((i) => points[other[(j + i) % 4]!]!) as [number, number, number, number];
        const [pa, pb] = [lattice.get(a)!, lattice.get(b)!];
        const back = lattice.get(points[quad[(k + 2) % 4]!]!)!;
        const own = lattice.get(points[quad[(k + 1) % 4]!]!)!;
        const away = [own[0] - back[0], own[1] - back[1]] as const;
        for (const [point, from] of [
          [c, pb],
          [d, pa],
        ] as const) {
          const place = [from[0] + away[0], from[1] + away[1]] as const;
          const known = lattice.get(point);
          if (known && (known[0] !== place[0] || known[1] !== place[1])) return undefined;
          lattice.set(point, place);
        }
      }
    }
  }
  return done.size === quads.length ? lattice : undefined;
}

/**
 * Lays a strip of quads on the whole square, rows and columns straight: its longer way along `along`, each row as wide
 * as its share of the way on the surface. The way keeps the direction that it has, as far as it has one.
 */
export function straighten(mesh: MeshData, part: Part, along: Axis): Fitted {
  const points = weldedPoints(mesh);
  const faces = facesOf(mesh, part);
  const odd = faces.filter((f) => f.length !== 4).length;
  if (faces.length === 0) return NOTHING_CHOSEN;
  if (odd > 0)
    return {
      problem: `${odd === 1 ? 'One face is a triangle' : `${String(odd)} of ${String(faces.length)} faces are triangles`}, so this is no strip of quads. Lay it planar, or unroll it.`,
    };
  const lattice = latticeOf(faces, points);
  if (!lattice)
    return {
      problem: 'Its quads do not lie in rows and columns, or are several pieces: choose one island that is a strip.',
    };
  const cells = [...lattice.values()];
  const low = [0, 1].map((k) => cells.reduce((least, p) => Math.min(least, p[k]!), Infinity));
  const size = [0, 1].map((k) => cells.reduce((max, p) => Math.max(max, p[k]!), -Infinity) - low[k]!) as [
    number,
    number,
  ];
  const at: number[][] = Array.from({ length: size[0] + 1 }, () => []);
  for (const [point, [x, y]] of lattice) at[x - low[0]!]![y - low[1]!] = point;
  // Each place of the lattice is one point: else pieces lie over each other.
  const full =
    lattice.size === (size[0] + 1) * (size[1] + 1) && at.every((column) => Object.keys(column).length === size[1] + 1);
  if (size[0] * size[1] !== faces.length || !full)
    return { problem: 'The strip has notches or holes: its quads do not fill rows and columns.' };
  // The mean way on the surface at each column, and each row.
  const ways = ([0, 1] as const).map((k) => {
    const sums = [0];
    for (let i = 0; i < size[k]; i++) {
      let sum = 0;
      const other = size[(1 - k) as 0 | 1];
      for (let j = 0; j <= other; j++) {
        const [a, b] = k === 0 ? [at[i]![j]!, at[i + 1]![j]!] : [at[j]![i]!, at[j]![i + 1]!];
        sum += length(minus(positionOf(mesh, b), positionOf(mesh, a)));
      }
      sums.push(sums[i]! + sum / (other + 1));
    }
    return sums;
  }) as [number[], number[]];
  const long: 0 | 1 = ways[0].at(-1)! >= ways[1].at(-1)! ? 0 : 1;
  const share = (k: 0 | 1, i: number): number => ways[k][i]! / (ways[k].at(-1)! || 1);
  const axis = indexOfAxis(along);
  const uvOf = (point: number): [number, number] => {
    const [x, y] = lattice.get(point)!;
    const [s, t] = [share(0, x - low[0]!), share(1, y - low[1]!)];
    const [a, b] = long === 0 ? [s, t] : [t, s];
    return axis === 0 ? [a, b] : [b, a];
  };
  const places = weldedPlaces(mesh);
  const alike = new Map([...lattice.keys()].map((point) => [places[point]!, point]));
  const flip = directions(mesh, faces, points, uvOf, axis);
  return {
    mesh: withUvs(mesh, (u, v, vertex) => {
      if (part[vertex] !== 1) return [u, v];
      const point = points[vertex]!;
      // Corners of triangles without area alone are no points of the strip: they go along with one at the same place.
      const known = lattice.has(point) ? point : alike.get(places[vertex]!);
      if (known === undefined) return [Math.min(Math.max(u, 0), 1), Math.min(Math.max(v, 0), 1)];
      const [a, b] = uvOf(known);
      return [flip[0] ? 1 - a : a, flip[1] ? 1 - b : b];
    }),
  };
}

/** Which axes to turn round: so that the way goes as it went before, and the layout is not mirrored. */
function directions(
  mesh: MeshData,
  faces: readonly Face[],
  points: Int32Array,
  uvOf: (point: number) => readonly [number, number],
  axis: 0 | 1,
): readonly [boolean, boolean] {
  let [agree, area] = [0, 0];
  for (const face of faces) {
    const uv = face.map((v) => uvOf(points[v]!));
    for (let k = 0; k < 4; k++) {
      const [p, q] = [uv[k]!, uv[(k + 1) % 4]!];
      const [a, b] = [face[k]!, face[(k + 1) % 4]!];
      agree += (q[axis] - p[axis]) * (mesh.uvs[b * 2 + axis]! - mesh.uvs[a * 2 + axis]!);
      area += p[0] * q[1] - q[0] * p[1];
    }
  }
  const along = agree < 0;
  // Against the clock seen from outside is a negative area with v down.
  const mirror = area > 0 !== along;
  return axis === 0 ? [along, mirror] : [mirror, along];
}
