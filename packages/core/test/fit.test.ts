import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  boundsOf,
  check,
  cylindrical,
  instancesOf,
  islandsOf,
  mergeMeshes,
  lengthsOf,
  mapUvs,
  mirrorUvs,
  normaliseUvs,
  repaceUvs,
  paceOf,
  parse,
  partOf,
  selectionOf,
  planar,
  scaleUvs,
  seamGaps,
  settingValues,
  gridOf,
  shapeMesh,
  speedThrough,
  spreadOver,
  straighten,
  stretches,
  surfaceVelocities,
  tilesAcross,
  transformPoint,
  rotateUvs,
  unrolled,
  uvSeamsOf,
  withLoops,
  withUvs,
  type Fitted,
  type MeshData,
  type Part,
  type ShapeName,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';

const whole = (mesh: MeshData): Part => new Uint8Array(mesh.positions.length / 3).fill(1);
function meshOf(fitted: Fitted): MeshData {
  if ('problem' in fitted) throw new Error(fitted.problem);
  return fitted.mesh;
}
const areaOf = (mesh: MeshData): number => spreadOver(mesh, 1).length && triangles(mesh).reduce((sum, t) => sum + t, 0);
const triangles = ({ positions, indices }: MeshData): number[] =>
  Array.from({ length: indices.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => [
      ...positions.slice(indices[t * 3 + k]! * 3, indices[t * 3 + k]! * 3 + 3),
    ]) as [number[], number[], number[]];
    const [e, f] = [b.map((x, i) => x - a[i]!), c.map((x, i) => x - a[i]!)] as [number[], number[]];
    return Math.hypot(e[1]! * f[2]! - e[2]! * f[1]!, e[2]! * f[0]! - e[0]! * f[2]!, e[0]! * f[1]! - e[1]! * f[0]!) / 2;
  });
/** A flat strip three metres long along x, one high. */
const strip = (columns: number): MeshData => gridOf((u, v) => [u * 3, -v, 0], columns, 2);

describe('islands', () => {
  it.each([
    ['plane', 1],
    ['sphere', 1],
    ['cube', 6],
    ['cards', 3],
    ['shells', 3],
    ['radial', 1],
  ] as [ShapeName, number][])('%s has %i', (name, count) => {
    const mesh = shapeMesh(name);
    const islands = islandsOf(mesh);
    expect(islands.count).toBe(count);
    const sizes = Array.from({ length: count }, (_, i) =>
      partOf(mesh, selectionOf(mesh, islands, new Set([i]))).reduce((a, b) => a + b, 0),
    );
    expect(sizes.reduce((a, b) => a + b, 0)).toBe(mesh.positions.length / 3);
  });
});

describe('moving a part', () => {
  const mesh = shapeMesh('cube', 4);
  const part = partOf(mesh, selectionOf(mesh, islandsOf(mesh), new Set([2])));
  const at = (m: MeshData): number[] => [...m.uvs].map((x) => Math.round(x * 1e4) / 1e4 + 0);
  it('comes back after four quarter turns, two mirrorings, and a scale and its inverse; the rest never moves', () => {
    const bounds = boundsOf(mesh, part)!;
    let round = mesh;
    for (let i = 0; i < 4; i++) round = mapUvs(round, part, rotateUvs(boundsOf(round, part)!, 90));
    expect(at(round)).toEqual(at(mesh));
    const map = mirrorUvs(bounds, 'u');
    expect(at(mapUvs(mapUvs(mesh, part, map), part, map))).toEqual(at(mesh));
    const turnedOnce = mapUvs(mesh, part, rotateUvs(bounds, 33));
    const outside = (m: MeshData): number[] => at(m).filter((_, i) => part[Math.floor(i / 2)] === 0);
    expect(outside(turnedOnce)).toEqual(outside(mesh));
    expect(at(mapUvs(turnedOnce, part, rotateUvs(bounds, -33)))).toEqual(at(mesh));
  });
  it('turns against the clock as seen: right goes up, where v is less', () => {
    const one = gridOf((u, v) => [u, -v, 0], 1, 1);
    const after = mapUvs(one, whole(one), rotateUvs({ from: [0, 0], to: [1, 1] }, 90));
    // The corner at the top right of the layout comes to its top left.
    expect([after.uvs[2], after.uvs[3]]).toEqual([expect.closeTo(0), expect.closeTo(0)]);
  });
  it('fills the square', () => {
    const small = mapUvs(
      mapUvs(mesh, part, rotateUvs(boundsOf(mesh, part)!, 20)),
      part,
      scaleUvs([0.2, 0.3], 0.1, 0.4),
    );
    const full = boundsOf(mapUvs(small, part, normaliseUvs(boundsOf(small, part)!, false)), part)!;
    expect([...full.from, ...full.to]).toEqual([0, 0, 1, 1].map((x) => expect.closeTo(x, 5)));
    const kept = boundsOf(mapUvs(small, part, normaliseUvs(boundsOf(small, part)!, true)), part)!;
    expect(Math.max(kept.to[0] - kept.from[0], kept.to[1] - kept.from[1])).toBeCloseTo(1, 5);
  });
});

describe('straighten', () => {
  it.each(['tube', 'ribbon', 'fall', 'torus'] as ShapeName[])(
    'lays %s on the whole square, even along its way, however its UVs lay',
    (name) => {
      const mesh = shapeMesh(name, 24);
      const part = whole(mesh);
      const bent = withUvs(mesh, (u, v) => [0.3 * u + 0.1 * v * v, 0.2 * u * u + 0.4 * v]);
      const straight = meshOf(straighten(bent, part, 'u'));
      const bounds = boundsOf(straight, part)!;
      expect([...bounds.from, ...bounds.to]).toEqual([0, 0, 1, 1].map((x) => expect.closeTo(x, 5)));
      const pace = [...paceOf(straight, part, 'u')!.metres];
      expect(Math.max(...pace) / Math.min(...pace)).toBeLessThan(1.25);
      // Not mirrored: with v down, a face seen from outside goes against the clock, a negative area.
      const areas = Array.from({ length: straight.indices.length / 3 }, (_, t) => {
        const [a, b, c] = [0, 1, 2].map((k) => [
          ...straight.uvs.slice(straight.indices[t * 3 + k]! * 2, straight.indices[t * 3 + k]! * 2 + 2),
        ]) as [number[], number[], number[]];
        return (b[0]! - a[0]!) * (c[1]! - a[1]!) - (c[0]! - a[0]!) * (b[1]! - a[1]!);
      });
      expect(Math.max(...areas)).toBeLessThan(0);
    },
  );
  it('says why it cannot', () => {
    const fan = shapeMesh('disc', 12);
    expect(straighten(fan, whole(fan), 'u')).toMatchObject({ problem: expect.stringContaining('Planar or Unroll') });
    const two = mergeMeshes([strip(3), { ...strip(4), positions: strip(4).positions.map((x) => x + 9) }]);
    expect(straighten(two, whole(two), 'u')).toMatchObject({ problem: expect.stringContaining('several pieces') });
    const grid = shapeMesh('plane', 3);
    const notched = { ...grid, indices: grid.indices.slice(6) };
    expect(straighten(notched, whole(notched), 'u')).toMatchObject({ problem: expect.stringContaining('notches') });
    expect(straighten(fan, new Uint8Array(whole(fan).length), 'u')).toEqual({
      problem: expect.stringContaining('Nothing is selected'),
    });
  });
});

describe('layouts', () => {
  it('a disc unrolls to turns around and the way outward; its middle has a place in each face', () => {
    const disc = shapeMesh('disc', 32);
    const flat = meshOf(unrolled(disc, whole(disc), 'faces'));
    for (let i = 0; i < flat.uvs.length / 2; i++) {
      const [x, y] = [flat.positions[i * 3]!, flat.positions[i * 3 + 1]!];
      expect(flat.uvs[i * 2 + 1]).toBeCloseTo(Math.hypot(x, y) / 0.55, 4);
      if (Math.hypot(x, y) < 1e-6) continue;
      const apart = flat.uvs[i * 2]! - Math.atan2(y, x) / (2 * Math.PI);
      expect(apart - Math.round(apart)).toBeCloseTo(0, 4);
    }
    expect([...stretches(flat)].filter((s) => !Number.isNaN(s)).every((s) => s >= 1)).toBe(true);
    // At its poles a sphere has triangles that are lines.
    expect([...stretches(shapeMesh('sphere', 8))].filter(Number.isNaN)).toHaveLength(16);
    expect(areaOf(flat)).toBeCloseTo(areaOf(disc), 6);
    const outer = uvSeamsOf(flat);
    // One for each ring, and no spokes; the innermost goes on into the middle.
    expect(outer).toHaveLength(8);
    for (const seam of outer.filter(({ ends }) => ends.every((v) => flat.uvs[v * 2 + 1]! > 0)))
      expect(tilesAcross(flat, seam)?.map(Math.abs)).toEqual([1, 0]);
  });
  it('a cone unrolls along its slope', () => {
    const cone = gridOf((u, v) => [v * Math.cos(u * 2 * Math.PI), 1 - v, v * -Math.sin(u * 2 * Math.PI)], 24, 6);
    const flat = meshOf(unrolled(cone, whole(cone), 'y'));
    for (let i = 0; i < flat.uvs.length / 2; i++)
      expect(flat.uvs[i * 2 + 1]).toBeCloseTo(1 - flat.positions[i * 3 + 1]!, 4);
  });
  it('a cylinder without UVs gets those it was made with, and a plane too', () => {
    for (const [name, lay] of [
      ['cylinder', cylindrical],
      ['plane', planar],
    ] as const) {
      const mesh = shapeMesh(name, 16);
      const bare = withUvs(mesh, () => [0, 0]);
      const laid = meshOf(lay(bare, whole(bare), name === 'plane' ? 'faces' : 'y'));
      const key = (m: MeshData): string[] =>
        Array.from(m.indices, (v) =>
          [...m.positions.slice(v * 3, v * 3 + 3), ...m.uvs.slice(v * 2, v * 2 + 2)]
            .map((x) => (x + 0).toFixed(3).replace('-0.000', '0.000'))
            .join(' '),
        ).sort();
      expect(key(laid)).toEqual(key(mesh));
    }
  });
  it('a face over the axis is refused, with a way out', () => {
    const triangle: MeshData = {
      ...gridOf((u, v) => [u, -v, 0], 1, 1),
      positions: new Float32Array([-1, -1, 0, 1, -1, 0, 0, 2, 0, 0, 0, 0]),
      indices: new Uint32Array([0, 1, 2]),
    };
    expect(unrolled(triangle, whole(triangle), 'z')).toEqual({ problem: expect.stringContaining('covers the middle') });
  });
});

describe('pace', () => {
  it('makes the way that a scroll runs proportional to the curve, whatever the rows were before', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.3, max: 3, noNaN: true }), { minLength: 2, maxLength: 6 }),
        fc.double({ min: 0.7, max: 1.4, noNaN: true }),
        (points, bend) => {
          const mesh = withUvs(strip(400), (u, v) => [0.2 + 0.6 * u ** bend, v]);
          const speed = speedThrough(points);
          const after = meshOf(repaceUvs(mesh, whole(mesh), 'u', speed));
          const { metres, from, to } = paceOf(after, whole(after), 'u')!;
          expect([from, to]).toEqual([expect.closeTo(0.2, 5), expect.closeTo(0.8, 5)]);
          // Each share of the extent, at its middle on the way.
          const sum = metres.reduce((a, b) => a + b, 0);
          let way = 0;
          const quotients = [...metres].map((m) => {
            const share = (way + m / 2) / sum;
            way += m;
            return m / speed(share);
          });
          const inner = quotients.slice(4, -4);
          expect(Math.max(...inner) / Math.min(...inner)).toBeLessThan(1.25);
        },
      ),
      { numRuns: 30 },
    );
  });
  it('moves the picture faster on the surface where rows are spread', () => {
    const mesh = strip(64);
    const after = meshOf(repaceUvs(mesh, whole(mesh), 'u', speedThrough([1, 3])));
    const speeds = lengthsOf(
      surfaceVelocities(
        after,
        Float32Array.from({ length: 2 * 16 * 16 }, (_, i) => (i % 2 === 0 ? 0.25 : 0)),
        16,
      ),
    );
    expect(speeds.at(-1)! / speeds[0]!).toBeGreaterThan(2.8);
    // 0.25 UV units a second over 3 metres a UV unit, before.
    expect(
      [
        ...lengthsOf(
          surfaceVelocities(
            mesh,
            Float32Array.from({ length: 2 }, (_, i) => (i === 0 ? 0.25 : 0)),
            1,
          ),
        ),
      ].every((s) => Math.abs(s - 0.75) < 1e-4),
    ).toBe(true);
  });
});

describe('loops', () => {
  it('adds rows across the way, keeps area and extent, and leaves no gaps', () => {
    const mesh = strip(2);
    const after = meshOf(withLoops(mesh, whole(mesh), 'u', 7));
    expect(new Set([...after.uvs].filter((_, i) => i % 2 === 0).map((u) => u.toFixed(4))).size).toBe(9);
    expect(after.indices.length / 6).toBe(16);
    expect(areaOf(after)).toBeCloseTo(areaOf(mesh), 6);
    expect(islandsOf(after).count).toBe(1);
    expect(uvSeamsOf(after)).toEqual([]);
    expect(meshOf(straighten(after, whole(after), 'u')).uvs.length).toBe(after.uvs.length);
    expect(withLoops(after, whole(after), 'u', 7)).toEqual({ problem: expect.stringContaining('already') });
  });
  it('leave a strip that leans and bends a strip of quads', () => {
    for (const axis of ['u', 'v'] as const) {
      const ribbon = shapeMesh('ribbon', 3);
      const cut = meshOf(withLoops(ribbon, whole(ribbon), axis, 4));
      const { uvs } = meshOf(straighten(cut, whole(cut), 'u'));
      expect([Math.min(...uvs), Math.max(...uvs)]).toEqual([0, 1]);
    }
  });
  it('refuses loops that would make more triangles than a mesh may have, however many there are', () => {
    const ribs = gridOf((u, v) => [u, v, 0], 1, 1000);
    expect(withLoops(ribs, whole(ribs), 'u', 128)).toEqual({
      problem: expect.stringMatching(/could have 258 thousand triangles; the limit is 200 thousand/),
    });
    expect(meshOf(withLoops(ribs, whole(ribs), 'u', 4)).indices.length / 3).toBe(10_000);
  });
  it('lets a pace follow its curve on a strip of two quads', () => {
    const speed = speedThrough([1, 4, 1]);
    const error = (mesh: MeshData): number => {
      const after = meshOf(repaceUvs(mesh, whole(mesh), 'u', speed));
      const metres = paceOf(after, whole(after), 'u')!.metres;
      return Math.max(...metres) / Math.min(...metres);
    };
    expect(error(strip(2))).toBeLessThan(1.01);
    expect(error(meshOf(withLoops(strip(2), whole(strip(2)), 'u', 31)))).toBeGreaterThan(3);
  });
});

it("stretch is the quotient of a texel's sides", () => {
  expect([...stretches(strip(4))].every((s) => Math.abs(s - 3) < 1e-4)).toBe(true);
  expect([...stretches(shapeMesh('plane'))].every((s) => Math.abs(s - 1) < 1e-4)).toBe(true);
});

describe('seams of a mesh', () => {
  const gaps = (source: string, mesh: MeshData): Float32Array => {
    const program = check(parse(`material "M"\nloop 2s at 30fps\nsurface unlit opaque\n${source}\n`));
    expect(program.diagnostics).toEqual([]);
    const { dials, switches } = settingValues(program);
    const sides = uvSeamsOf(mesh).flatMap(({ ends, across }) =>
      [...ends, ...across].flatMap((v) => [mesh.uvs[v * 2]!, mesh.uvs[v * 2 + 1]!]),
    );
    return seamGaps({ graph: lower(program, switches), dials }, Float32Array.from(sides));
  };
  const cylinder = shapeMesh('cylinder', 16);
  it('a material that tiles meets itself around a cylinder, one that does not does not', () => {
    expect(uvSeamsOf(cylinder)).toHaveLength(4);
    for (const seam of uvSeamsOf(cylinder)) expect(tilesAcross(cylinder, seam)?.map(Math.abs)).toEqual([1, 0]);
    expect(
      Math.max(...gaps('n = uv |> pan(1 lap, heading: 20deg) |> fbm(cells: 4)\nout color = (n, n, n)', cylinder)),
    ).toBeLessThan(1 / 512);
    expect(Math.min(...gaps('out color = (uv.x, uv.x, uv.x)', cylinder))).toBeGreaterThan(0.9);
  });
  it('the faces of a cube meet where the material is even, and are no whole tiles apart', () => {
    const cube = shapeMesh('cube', 2);
    expect(uvSeamsOf(cube).length).toBeGreaterThan(11);
    expect(Math.max(...gaps('out color = (0.4, 0.4, 0.4)', cube))).toBe(0);
    expect(Math.max(...gaps('out color = (uv.x, uv.x, uv.x)', cube))).toBeGreaterThan(0.5);
  });
});

describe('placing', () => {
  const place = { position: [1, 0, 0], turn: [0, 90, 0], scale: 2, copies: null } as const;
  it('scales, turns and moves', () => {
    const [m] = instancesOf(place);
    // x to the right becomes away from the viewer, twice as far.
    expect(transformPoint(m!, [1, 0, 0])).toEqual([expect.closeTo(1), expect.closeTo(0), expect.closeTo(-2)]);
  });
  it('copies in a row in its own frame, and along a curve at even ways, turned with it', () => {
    const row = instancesOf({ ...place, copies: { kind: 'row', count: 3, step: [1, 0, 0] } });
    expect(row.map((m) => transformPoint(m, [0, 0, 0])[2])).toEqual([0, -2, -4].map((z) => expect.closeTo(z)));
    const curve = instancesOf({
      position: [0, 0, 0],
      turn: [0, 0, 0],
      scale: 1,
      copies: {
        kind: 'curve',
        count: 5,
        points: [
          [0, 0],
          [1, 0],
          [2, 1],
          [2, 2],
        ],
        closed: false,
      },
    });
    const at = curve.map((m) => transformPoint(m, [0, 0, 0]));
    const apart = at.slice(1).map((p, i) => Math.hypot(p[0] - at[i]![0], p[2] - at[i]![2]));
    expect(Math.max(...apart) / Math.min(...apart)).toBeLessThan(1.1);
    expect(at.at(-1)).toEqual([expect.closeTo(2), 0, expect.closeTo(2)]);
    // At the end the curve runs towards +z, and so does the copy's own x.
    const end = curve.at(-1)!;
    expect(transformPoint(end, [1, 0, 0])[2] - transformPoint(end, [0, 0, 0])[2]).toBeGreaterThan(0.95);
  });
});
