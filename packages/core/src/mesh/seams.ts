import { cornersOf, type MeshData } from './mesh.ts';
import { edgeOf, weldedPlaces, weldedPoints } from './weld.ts';

/** An edge at which a mesh's UVs do not go on: its two ends, and what each side reads there. */
export interface UvSeam {
  /** Vertices at the two ends, of one side. */
  readonly ends: readonly [number, number];
  /** Vertices of the other side at the same ends. */
  readonly across: readonly [number, number];
}

/** A place whose UVs part more ways than this is a pole, not a corner. */
const POLE = 6;

/**
 * The edges between two triangles that have other UVs on either side. Edges where a mesh is open are none; nor are the
 * spokes of a pole,
 * where UVs part at that end only.
 */
export function uvSeamsOf(mesh: MeshData): UvSeam[] {
  const [places, points] = [weldedPlaces(mesh), weldedPoints(mesh)];
  const count = places.length;
  // Where all UVs of a place are one no seam ends, and most places are such: only the edges at others are looked up.
  const parted = new Uint8Array(count);
  const seen = new Int32Array(count).fill(-1);
  const ways = new Map<number, Set<number>>();
  for (const v of mesh.indices) {
    const [place, point] = [places[v]!, points[v]!];
    if (seen[place] === -1) seen[place] = point;
    else if (seen[place] !== point) {
      parted[place] = 1;
      ways.set(place, (ways.get(place) ?? new Set([seen[place]!])).add(point));
    }
  }
  const isPole = (v: number): boolean => (ways.get(places[v]!)?.size ?? 0) > POLE;
  const first = new Map<number, readonly [number, number]>();
  const seams: UvSeam[] = [];
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    const corners = cornersOf(mesh, t);
    for (let k = 0; k < 3; k++) {
      let [a, b] = [corners[k]!, corners[(k + 1) % 3]!];
      if (places[a] === places[b] || (parted[places[a]!] === 0 && parted[places[b]!] === 0)) continue;
      if (places[a]! > places[b]!) [a, b] = [b, a];
      const key = places[a]! * count + places[b]!;
      const before = first.get(key);
      if (!before) {
        first.set(key, [a, b]);
        continue;
      }
      const [atA, atB] = [points[before[0]] !== points[a], points[before[1]] !== points[b]];
      const spoke = (atA && !atB && isPole(a)) || (atB && !atA && isPole(b));
      if ((atA || atB) && !spoke) seams.push({ ends: before, across: [a, b] });
    }
  }
  return seams;
}

/**
 * By how much the UVs jump over a seam, where that is the same number of whole tiles at both ends: then a material that
 * tiles meets itself.
 */
export function tilesAcross({ uvs }: MeshData, { ends, across }: UvSeam): readonly [number, number] | undefined {
  const jump = (end: 0 | 1, axis: 0 | 1): number => uvs[across[end] * 2 + axis]! - uvs[ends[end] * 2 + axis]!;
  const whole = ([0, 1] as const).map((axis) => {
    const [a, b] = [jump(0, axis), jump(1, axis)];
    return Math.abs(a - b) < 1e-4 && Math.abs(a - Math.round(a)) < 1e-4 ? Math.round(a) : NaN;
  });
  return whole.some(Number.isNaN) ? undefined : [whole[0]!, whole[1]!];
}

/** The edges in space at which some triangles end: those that only one of them has. */
export function outlineOf(mesh: MeshData, isIn: (triangle: number) => boolean): UvSeam[] {
  const places = weldedPlaces(mesh);
  /** Undefined once another of them has the edge too. */
  const edges = new Map<number, readonly [number, number] | undefined>();
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    if (!isIn(t)) continue;
    const corners = cornersOf(mesh, t);
    for (let k = 0; k < 3; k++) {
      const ends = [corners[k]!, corners[(k + 1) % 3]!] as const;
      if (places[ends[0]] === places[ends[1]]) continue;
      const key = edgeOf(places, ...ends);
      edges.set(key, edges.has(key) ? undefined : ends);
    }
  }
  return [...edges.values()].flatMap((ends) => (ends ? [{ ends, across: ends }] : []));
}
