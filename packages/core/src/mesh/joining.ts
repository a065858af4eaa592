import { mapUvs, NOTHING_SELECTED, translateUvs, trianglesOf, type Fitted, type Part } from './fit.ts';
import { cornersOf, type MeshData } from './mesh.ts';
import { islandsOf, weldedPlaces } from './weld.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** So far a face that is separated moves in u and v: a fifth of a texel at 2048, and more than what counts as one place. */
const APART = 1e-4;

/** Makes a part whose vertices are its own an island: it moves a hair, so that its edges are no longer shared. */
export function separated(mesh: MeshData, part: Part): Fitted {
  const { ofVertex } = islandsOf(mesh);
  const inside = new Set<number>();
  part.forEach((mark, v) => {
    if (mark === 1) inside.add(ofVertex[v]!);
  });
  // Vertices that no triangle uses are of no island.
  if (!ofVertex.some((island, v) => island >= 0 && part[v] === 0 && inside.has(island)))
    return { problem: reasons.separateAlready };
  return { mesh: mapUvs(mesh, part, translateUvs([APART, APART])) };
}

/** An edge that two islands have in common in space. */
interface Joint {
  readonly to: number;
  /** Vertices of this island, and of the other, at the same two places. */
  readonly own: readonly [number, number];
  readonly other: readonly [number, number];
}

/**
 * Joins the islands of a part along the edges that they have in common in space: from the one with the most triangles on, each
 * is turned, scaled and moved to the one beside it, and mirrored where it was. Each island is joined along one edge; others fall
 * together where the layout closes.
 */
export function joined(mesh: MeshData, part: Part): Fitted {
  const triangles = trianglesOf(mesh, part);
  if (triangles.length === 0) return NOTHING_SELECTED;
  const { ofVertex } = islandsOf(mesh);
  const counts = new Map<number, number>();
  for (const t of triangles) {
    const island = ofVertex[mesh.indices[t * 3]!]!;
    counts.set(island, (counts.get(island) ?? 0) + 1);
  }
  const joints = jointsOf(mesh, triangles, ofVertex);
  if (joints.size === 0) return { problem: reasons.nothingToJoin };
  const uvs = mesh.uvs.slice();
  const verticesOf = new Map<number, number[]>();
  part.forEach((mark, v) => {
    const island = ofVertex[v]!;
    if (mark === 1 && island >= 0) verticesOf.set(island, [...(verticesOf.get(island) ?? []), v]);
  });
  const sign = windings(mesh, triangles, ofVertex);
  const done = new Set<number>();
  // Those that hang together get one layout; the largest stays where it is.
  for (const [start] of [...counts].sort((a, b) => b[1] - a[1])) {
    if (done.has(start)) continue;
    done.add(start);
    const queue = [start];
    for (const island of queue)
      for (const { to, own, other } of joints.get(island) ?? []) {
        if (done.has(to)) continue;
        const map = mapOnto(uvs, other, own, sign.get(to) !== sign.get(island));
        if (!map) continue;
        done.add(to);
        queue.push(to);
        // Islands that follow are joined to what this one has become.
        sign.set(to, sign.get(island)!);
        for (const v of verticesOf.get(to)!) uvs.set(map(uvs[v * 2]!, uvs[v * 2 + 1]!), v * 2);
      }
  }
  for (const all of joints.values())
    for (const { own, other } of all)
      for (const end of [0, 1] as const) {
        const [a, b] = [own[end], other[end]];
        if (Math.hypot(uvs[a * 2]! - uvs[b * 2]!, uvs[a * 2 + 1]! - uvs[b * 2 + 1]!) < 1e-4)
          uvs.set(uvs.subarray(a * 2, a * 2 + 2), b * 2);
      }
  return { mesh: { ...mesh, uvs } };
}

function jointsOf(mesh: MeshData, triangles: readonly number[], ofVertex: Int32Array): Map<number, Joint[]> {
  const places = weldedPlaces(mesh);
  const edges = new Map<number, readonly [number, number]>();
  const joints = new Map<number, Joint[]>();
  const add = (own: readonly [number, number], other: readonly [number, number]): void => {
    const island = ofVertex[own[0]]!;
    joints.set(island, [...(joints.get(island) ?? []), { to: ofVertex[other[0]]!, own, other }]);
  };
  for (const t of triangles) {
    const corners = cornersOf(mesh, t);
    corners.forEach((v, k) => {
      let ends: readonly [number, number] = [v, corners[(k + 1) % 3]!];
      if (places[ends[0]]! > places[ends[1]]!) ends = [ends[1], ends[0]];
      const key = places[ends[0]]! * places.length + places[ends[1]]!;
      const before = edges.get(key);
      if (!before) edges.set(key, ends);
      else if (ofVertex[before[0]] !== ofVertex[v]) {
        add(before, ends);
        add(ends, before);
      }
    });
  }
  return joints;
}

/** Whether an island faces up or down on the UV plane, on the whole. */
function windings(
  { uvs, indices }: MeshData,
  triangles: readonly number[],
  ofVertex: Int32Array,
): Map<number, boolean> {
  const areas = new Map<number, number>();
  for (const t of triangles) {
    const [a, b, c] = [0, 1, 2].map((k) => indices[t * 3 + k]! * 2) as [number, number, number];
    const area = (uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[b + 1]! - uvs[a + 1]!) * (uvs[c]! - uvs[a]!);
    const island = ofVertex[a / 2]!;
    areas.set(island, (areas.get(island) ?? 0) + area);
  }
  return new Map([...areas].map(([island, area]) => [island, area > 0]));
}

/** The map that brings an edge onto another, alike in all directions; undefined where one of them has no length. */
function mapOnto(
  uvs: Float32Array,
  [p, q]: readonly [number, number],
  [a, b]: readonly [number, number],
  isMirrored: boolean,
): ((u: number, v: number) => [number, number]) | undefined {
  const at = (vertex: number, flip: boolean): [number, number] => [
    flip ? -uvs[vertex * 2]! : uvs[vertex * 2]!,
    uvs[vertex * 2 + 1]!,
  ];
  const [p0, q0, a0, b0] = [at(p, isMirrored), at(q, isMirrored), at(a, false), at(b, false)];
  const [from, to] = [
    [q0[0] - p0[0], q0[1] - p0[1]],
    [b0[0] - a0[0], b0[1] - a0[1]],
  ] as [[number, number], [number, number]];
  const square = from[0] ** 2 + from[1] ** 2;
  if (square < 1e-16 || Math.hypot(...to) < 1e-8) return undefined;
  const [c, s] = [(from[0] * to[0] + from[1] * to[1]) / square, (from[0] * to[1] - from[1] * to[0]) / square];
  return (u, v) => {
    const [x, y] = [(isMirrored ? -u : u) - p0[0], v - p0[1]];
    return [a0[0] + c * x - s * y, a0[1] + s * x + c * y];
  };
}
