import { describe, expect, it } from '@jest/globals';
import {
  allOf,
  isEmpty,
  islandsOf,
  mapUvsWithin,
  translateUvs,
  normaliseUvs,
  partOf,
  refit,
  selectionOf,
  shapeMesh,
  SHAPES,
  rotateUvs,
  type Bounds,
  type Fitting,
  type MeshData,
  type Refit,
  type ShapeName,
  type UvMap,
} from '@estela/core';
import fc from 'fast-check';

const areaOf = ({ positions, indices }: MeshData): number => {
  let sum = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => positions.subarray(indices[t + k]! * 3, indices[t + k]! * 3 + 3)) as [
      Float32Array,
      Float32Array,
      Float32Array,
    ];
    const [e, f] = [b.map((x, i) => x - a[i]!), c.map((x, i) => x - a[i]!)];
    sum += Math.hypot(e[1]! * f[2]! - e[2]! * f[1]!, e[2]! * f[0]! - e[0]! * f[2]!, e[0]! * f[1]! - e[1]! * f[0]!) / 2;
  }
  return sum;
};
/** Of the UV plane: what the triangles cover that face up, and what those do that face down. */
const uvAreas = ({ uvs, indices }: MeshData): readonly [number, number] => {
  let [up, down] = [0, 0];
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => indices[t + k]! * 2) as [number, number, number];
    const area =
      ((uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[b + 1]! - uvs[a + 1]!) * (uvs[c]! - uvs[a]!)) / 2;
    if (area > 0) up += area;
    else down -= area;
  }
  return [up, down];
};
/** The triangles that are not selected, by number. */
const othersOf = ({ selected }: Fitting): number[] => [...selected.keys()].filter((t) => selected[t] === 0);
/** Where the corners of such triangles lie, and their UVs. */
const corners = ({ positions, uvs, indices }: MeshData, triangles: readonly number[]): number[][] =>
  triangles.map((t) =>
    [...indices.subarray(t * 3, t * 3 + 3)].flatMap((v) => [
      ...positions.subarray(v * 3, v * 3 + 3),
      ...uvs.subarray(v * 2, v * 2 + 2),
    ]),
  );
function expectSound({ mesh, islands, selected }: Fitting): void {
  const count = mesh.positions.length / 3;
  expect([mesh.normals.length / 3, mesh.uvs.length / 2, islands.ofVertex.length]).toEqual([count, count, count]);
  expect(mesh.indices.every((v) => v < count)).toBe(true);
  for (const values of [mesh.positions, mesh.normals, mesh.uvs]) expect(values.every(Number.isFinite)).toBe(true);
  for (let v = 0; v < count; v++) expect(Math.hypot(...mesh.normals.subarray(v * 3, v * 3 + 3))).toBeCloseTo(1, 3);
  expect(selected.length).toBe(mesh.indices.length / 3);
}

const FLAT = new Set<ShapeName>(['plane', 'cube', 'cards', 'disc', 'radial']);
const about = fc.constantFrom('faces', 'x', 'y', 'z');
const axis = fc.constantFrom('u', 'v');
const anyRefit: fc.Arbitrary<Refit> = fc.oneof(
  fc.record({ do: fc.constantFrom('planar', 'cylindrical', 'unroll'), about }),
  fc.record({ do: fc.constant('straighten'), along: axis }),
  fc.record({ do: fc.constantFrom('separate', 'join') }),
  fc.record({ do: fc.constant('loops'), across: axis, count: fc.integer({ min: 1, max: 9 }) }),
);
const map: fc.Arbitrary<(bounds: Bounds) => UvMap> = fc.oneof(
  fc.integer({ min: -180, max: 180 }).map((angle) => (bounds: Bounds) => rotateUvs(bounds, angle)),
  fc
    .tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true }))
    .map((by) => () => translateUvs(by)),
  fc.boolean().map((alike) => (bounds: Bounds) => normaliseUvs(bounds, alike)),
);

describe('laying and cutting anew', () => {
  it('whatever is done to whichever islands, the form stays, the rest keeps its UVs, and all is sound', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(SHAPES) as ShapeName[])),
        fc.integer({ min: 1, max: 7 }),
        fc.array(fc.tuple(fc.oneof(anyRefit, map), fc.nat(), fc.constantFrom('all', 'island', 'faces')), {
          minLength: 1,
          maxLength: 5,
        }),
        (name, subdivisions, acts) => {
          const start = shapeMesh(name, subdivisions);
          let area = areaOf(start);
          let hasHalves = false;
          let fitting: Fitting = { mesh: start, islands: islandsOf(start), selected: allOf(start) };
          for (const [act, which, some] of acts) {
            const { mesh, islands } = fitting;
            // A map moves what faces beside have of the same vertices: so it is given whole islands.
            const selected =
              some === 'all'
                ? allOf(mesh)
                : some === 'island' || typeof act === 'function'
                  ? selectionOf(mesh, islands, new Set([which % islands.count]))
                  : allOf(mesh).map((_, t) => (Math.imul(t + which, 0x9e3779b1) >>> 30 === 0 ? 1 : 0));
            fitting = { ...fitting, selected };
            const [others, { mesh: before }] = [othersOf(fitting), fitting];
            if (typeof act === 'function') {
              const done = mapUvsWithin(mesh, partOf(mesh, selected), act);
              if ('problem' in done) throw new Error(done.problem);
              fitting = { ...fitting, mesh: done.mesh };
            } else {
              const done = refit(fitting, act);
              if ('problem' in done) {
                expect(done.problem).toMatch(/^([A-Z]|\d+ of ).*\.$/);
                continue;
              }
              fitting = done;
              expect(isEmpty(fitting.selected)).toBe(false);
            }
            expectSound(fitting);
            if (typeof act !== 'function' && act.do === 'loops') {
              // A bent quad is halved another way when it is cut; on the UV plane nothing is lost or laid twice. What
              // is not cut comes first.
              expect(uvAreas(fitting.mesh)).toEqual(uvAreas(before).map((sum) => expect.closeTo(sum, 4)));
            }
            // Of a half of a quad and its neighbour over an edge, the quad that is cut is bent.
            hasHalves ||= some === 'faces';
            if (typeof act === 'function' || act.do !== 'loops' || (FLAT.has(name) && !hasHalves))
              expect(areaOf(fitting.mesh)).toBeCloseTo(area, 4);
            area = areaOf(fitting.mesh);
            const kept = typeof act !== 'function' && act.do === 'loops' ? others.map((_, i) => i) : others;
            expect(corners(fitting.mesh, kept)).toEqual(corners(before, others));
          }
        },
      ),
      { numRuns: Number(process.env.ESTELA_FIT_RUNS ?? 150) },
    );
  });
});
