import { indexOfAxis, NOTHING_SELECTED, trianglesOf, type Axis, type Fitted, type Part } from './fit.ts';
import { cornersOf, positionOf, type MeshData } from './mesh.ts';
import { quadsOf, type CutFace } from './quads.ts';
import { Rebuild } from './rebuild.ts';
import { latticeOf, type Corner, type Lattice } from './strip.ts';
import { length, minus } from './vector.ts';
import { weldedPlaces, weldedPoints } from './weld.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** A strip of quads as it lies in space, whatever its UVs. */
export interface Strip {
  readonly quads: readonly CutFace[];
  readonly lattice: Lattice;
  /** For each axis the share of the arc length at each line of the lattice, 0..1; and the whole, in metres. */
  readonly shares: readonly [readonly number[], readonly number[]];
  readonly lengths: readonly [number, number];
}

/** The strip that a part is; or why it is none. */
export function stripOf(mesh: MeshData, part: Part): Strip | Exclude<Fitted, { readonly mesh: MeshData }> {
  const weld = weldedPlaces(mesh);
  const quads = quadsOf(mesh, { triangles: trianglesOf(mesh, part), weld });
  if (quads.length === 0) return NOTHING_SELECTED;
  const odd = quads.filter(({ face }) => face.length !== 4);
  if (odd.length > 0)
    return {
      problem: reasons.triangles(odd.length, quads.length),
      triangles: odd.flatMap(({ triangles }) => triangles),
    };
  const found = latticeOf(quads, weld);
  if ('problem' in found) return { problem: found.problem, triangles: found.faces.flatMap((q) => quads[q]!.triangles) };
  const lattice = cutAtSeam(found, quads, weld, weldedPoints(mesh));
  const measured = ([0, 1] as const).map((axis) => {
    const count = lattice.size[axis];
    const sums = new Float64Array(count);
    quads.forEach(({ face }, q) => {
      const corners = lattice.corners[q]!;
      for (let k = 0; k < 4; k++) {
        const [p, r] = [corners[k]!, corners[(k + 1) % 4]!];
        if (p[axis] === r[axis]) continue;
        const [a, b] = [face[k]!, face[(k + 1) % 4]!];
        // Each quad has two sides along an axis: the mean of both, and of all that lie beside it.
        sums[Math.min(p[axis], r[axis])]! +=
          length(minus(positionOf(mesh, b), positionOf(mesh, a))) / (2 * lattice.size[1 - axis]!);
      }
    });
    const at = [0];
    for (let i = 0; i < count; i++) at.push(at[i]! + sums[i]!);
    const whole = at[count]!;
    return { whole, shares: at.map((sum) => sum / (whole || 1)) };
  });
  return {
    quads,
    lattice,
    shares: [measured[0]!.shares, measured[1]!.shares],
    lengths: [measured[0]!.whole, measured[1]!.whole],
  };
}

/** A strip that closes, cut where its UVs part already, at as many edges as may be. */
function cutAtSeam(lattice: Lattice, quads: readonly CutFace[], weld: Int32Array, points: Int32Array): Lattice {
  const shifts = ([0, 1] as const).map((axis) => {
    if (!lattice.closed[axis]) return 0;
    const size = lattice.size[axis];
    /** At each line the UVs of each place on the side before, and on the side after. */
    const sides = Array.from({ length: size }, () => [new Map<number, number>(), new Map<number, number>()] as const);
    quads.forEach(({ face }, q) => {
      const corners = lattice.corners[q]!;
      const low = Math.min(...corners.map((corner) => corner[axis]));
      face.forEach((v, k) => {
        const isLow = corners[k]![axis] === low;
        sides[corners[k]![axis] % size]![isLow ? 1 : 0].set(weld[v]!, points[v]!);
      });
    });
    const parted = sides.map(([before, after]) => [...after].filter(([place, p]) => before.get(place) !== p).length);
    return parted.indexOf(Math.max(...parted));
  });
  const turned = (corners: readonly Corner[]): Corner[] => {
    const from = shifts.map((shift, axis) => {
      const low = Math.min(...corners.map((corner) => corner[axis as 0 | 1]));
      return low < shift ? shift - lattice.size[axis as 0 | 1] : shift;
    });
    return corners.map(([x, y]) => [x - from[0]!, y - from[1]!]);
  };
  return shifts.some((shift) => shift > 0) ? { ...lattice, corners: lattice.corners.map(turned) } : lattice;
}

/**
 * Lays a strip of quads on the whole square, rows and columns straight: its longer side along `along`, each row as wide as its
 * share of the arc length. Quads hang together as they lie in space: islands of their own are joined, and a ring is cut open.
 * The strip keeps the direction that it has along the axis, as far as it has one, and is not mirrored.
 */
export function straighten(mesh: MeshData, part: Part, along: Axis): Fitted {
  const strip = stripOf(mesh, part);
  if ('problem' in strip) return strip;
  const { quads, lattice, shares, lengths } = strip;
  const axis = indexOfAxis(along);
  const long: 0 | 1 = lengths[0] >= lengths[1] ? 0 : 1;
  const uvs = lattice.corners.map((corners) =>
    corners.map(([x, y]): [number, number] => {
      const at = [shares[0][x]!, shares[1][y]!] as const;
      const [a, b] = [at[long], at[1 - long]!] as const;
      return axis === 0 ? [a, b] : [b, a];
    }),
  );
  const [flipU, flipV] = directions(mesh, quads, uvs, axis);
  const weld = weldedPlaces(mesh);
  const given = new Corners(mesh, weld);
  quads.forEach(({ face, triangles }, q) => {
    for (const t of triangles)
      cornersOf(mesh, t).forEach((v, k) => {
        const [u, w] = uvs[q]![face.findIndex((other) => weld[other] === weld[v])]!;
        given.set(t * 3 + k, flipU ? 1 - u : u, flipV ? 1 - w : w);
      });
  });
  // Corners of triangles without area are no corners of the strip: they go along with one at the same place.
  const done = new Set(quads.flatMap(({ triangles }) => triangles));
  for (const t of trianglesOf(mesh, part)) if (!done.has(t)) given.follow(t);
  return { mesh: given.finish() };
}

/** UVs by the corner of a triangle: a vertex that needs several is copied. */
class Corners {
  readonly #uvs: Float32Array;
  readonly #isSet: Uint8Array;
  readonly #indices: number[];
  #rebuilt: Rebuild | undefined;
  readonly #copies = new Map<string, number>();
  readonly #byPlace = new Map<number, readonly [number, number]>();

  constructor(
    readonly mesh: MeshData,
    readonly weld: Int32Array,
  ) {
    this.#uvs = mesh.uvs.slice();
    this.#isSet = new Uint8Array(mesh.positions.length / 3);
    this.#indices = [...mesh.indices];
  }

  set(corner: number, u: number, v: number): void {
    const vertex = this.mesh.indices[corner]!;
    const [single, other] = [Math.fround(u), Math.fround(v)];
    this.#byPlace.set(this.weld[vertex]!, [u, v]);
    if (this.#isSet[vertex] === 0) {
      this.#isSet[vertex] = 1;
      this.#uvs.set([u, v], vertex * 2);
    } else if (this.#uvs[vertex * 2] !== single || this.#uvs[vertex * 2 + 1] !== other) {
      const key = `${String(vertex)} ${String(single)} ${String(other)}`;
      let copy = this.#copies.get(key);
      this.#rebuilt ??= new Rebuild(this.mesh);
      if (copy === undefined) this.#copies.set(key, (copy = this.#rebuilt.copy(vertex, u, v)));
      this.#indices[corner] = copy;
    }
  }

  /** A triangle's corners as others at the same place; where there is none, held to the square. */
  follow(triangle: number): void {
    for (const vertex of cornersOf(this.mesh, triangle)) {
      if (this.#isSet[vertex] === 1) continue;
      const [u, v] =
        this.#byPlace.get(this.weld[vertex]!) ??
        ([0, 1].map((k) => Math.min(Math.max(this.mesh.uvs[vertex * 2 + k]!, 0), 1)) as [number, number]);
      this.#uvs.set([u, v], vertex * 2);
    }
  }

  finish(): MeshData {
    if (!this.#rebuilt) return { ...this.mesh, uvs: this.#uvs };
    this.#isSet.forEach((_, v) => {
      this.#rebuilt!.setUv(v, this.#uvs[v * 2]!, this.#uvs[v * 2 + 1]!);
    });
    return this.#rebuilt.finish(this.#indices);
  }
}

/** Which axes to turn round: so that the strip runs as it ran before, and the layout is not mirrored. */
function directions(
  mesh: MeshData,
  quads: readonly CutFace[],
  uvs: readonly (readonly (readonly [number, number])[])[],
  axis: 0 | 1,
): readonly [boolean, boolean] {
  let [agree, area] = [0, 0];
  quads.forEach(({ face }, q) => {
    for (let k = 0; k < 4; k++) {
      const [p, r] = [uvs[q]![k]!, uvs[q]![(k + 1) % 4]!];
      const [a, b] = [face[k]!, face[(k + 1) % 4]!];
      agree += (r[axis] - p[axis]) * (mesh.uvs[b * 2 + axis]! - mesh.uvs[a * 2 + axis]!);
      area += p[0] * r[1] - r[0] * p[1];
    }
  });
  const along = agree < 0;
  // Against the clock seen from outside is a negative area with v down.
  const mirror = area > 0 !== along;
  return axis === 0 ? [along, mirror] : [mirror, along];
}
