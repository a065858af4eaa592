import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { islandsOf, weldedPlaces, type MeshData } from '../src/index.ts';
import { metresAlong, slopesOf } from '../src/mesh/slopes.ts';

const at = (values: Float32Array, v: number): readonly [number, number, number] => [
  values[v * 3]!,
  values[v * 3 + 1]!,
  values[v * 3 + 2]!,
];
/** A mesh of loose triangles whose corners lie on a coarse lattice, so that many meet. */
const loose = fc
  .array(
    fc.record({
      place: fc.tuple(...([0, 1, 2] as const).map(() => fc.integer({ min: -2, max: 2 }))),
      uv: fc.tuple(fc.nat(2), fc.nat(2)),
    }),
    {
      minLength: 3,
      maxLength: 60,
    },
  )
  .map((all): MeshData => {
    const corners = all.slice(0, all.length - (all.length % 3));
    return {
      positions: Float32Array.from(corners.flatMap((c) => c.place)),
      normals: Float32Array.from(corners.flatMap(() => [0, 0, 1])),
      uvs: Float32Array.from(corners.flatMap((c) => c.uv)),
      indices: Uint32Array.from(corners, (_, i) => i),
    };
  });

describe('welding', () => {
  it('finds the first vertex at each place, and with the same UV, as comparing all with all does', () => {
    fc.assert(
      fc.property(loose, (mesh) => {
        const count = mesh.positions.length / 3;
        const same = (a: number, b: number): boolean =>
          at(mesh.positions, a).every((x, k) => x === at(mesh.positions, b)[k]);
        const first = Array.from({ length: count }, (_, v) =>
          Array.from({ length: count }, (__, w) => w).find((w) => same(v, w)),
        );
        expect([...weldedPlaces(mesh)]).toEqual(first);
        // Each island that is counted is there.
        const { count: islands, ofVertex } = islandsOf(mesh);
        expect(new Set(ofVertex).size).toBe(islands);
      }),
    );
  });
});

describe('metres along an axis', () => {
  it('are the length of the slope, and none where UVs span no area', () => {
    fc.assert(
      fc.property(loose, (mesh) => {
        for (let t = 0; t < mesh.indices.length / 3; t++) {
          const slopes = slopesOf(mesh, t);
          for (const [axis, slope] of [
            [0, slopes?.alongU],
            [1, slopes?.alongV],
          ] as const)
            if (slope) expect(metresAlong(mesh, t, axis)).toBeCloseTo(Math.hypot(...slope), 6);
            else expect(metresAlong(mesh, t, axis)).toBeNaN();
        }
      }),
    );
  });
});
