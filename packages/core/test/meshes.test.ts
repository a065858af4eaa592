import { expect, it } from '@jest/globals';
import { SHAPES, shapeMesh, type MeshData, type ShapeName } from '../src/index.ts';

type Vector = [number, number, number];
const at = (m: MeshData, i: number): Vector => [m.positions[i * 3]!, m.positions[i * 3 + 1]!, m.positions[i * 3 + 2]!];
const normal = (m: MeshData, i: number): Vector => [m.normals[i * 3]!, m.normals[i * 3 + 1]!, m.normals[i * 3 + 2]!];

it.each(Object.keys(SHAPES) as ShapeName[])(
  '%s is a sound mesh: normals of length 1 on the side its triangles face, UVs over the square',
  (name) => {
    for (const subdivisions of [undefined, 8, 20]) {
      const m = shapeMesh(name, subdivisions);
      const count = m.positions.length / 3;
      expect([m.normals.length / 3, m.uvs.length / 2, m.indices.length % 3]).toEqual([count, count, 0]);
      expect([...m.positions, ...m.normals, ...m.uvs].every(Number.isFinite)).toBe(true);
      expect(Math.max(...m.indices)).toBeLessThan(count);
      for (let i = 0; i < count; i++) expect(Math.hypot(...normal(m, i))).toBeCloseTo(1, 4);
      let [same, against] = [0, 0];
      for (let t = 0; t < m.indices.length; t += 3) {
        const [a, b, c] = [at(m, m.indices[t]!), at(m, m.indices[t + 1]!), at(m, m.indices[t + 2]!)];
        const [u, v] = [b.map((x, i) => x - a[i]!), c.map((x, i) => x - a[i]!)] as [Vector, Vector];
        const face: Vector = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
        // At a pole one of a quad's triangles is a line.
        if (Math.hypot(...face) < 1e-9) continue;
        const n = normal(m, m.indices[t + 1]!);
        if (face[0] * n[0] + face[1] * n[1] + face[2] * n[2] > 0) same++;
        else against++;
      }
      expect([same > 0, against]).toEqual([true, 0]);
      const us = [...m.uvs].filter((_, i) => i % 2 === 0);
      expect([Math.min(...us), Math.max(...us)]).toEqual([expect.closeTo(0), expect.closeTo(1)]);
    }
  },
);

it('closed shapes face outward', () => {
  for (const name of ['sphere', 'cube', 'cylinder', 'torus', 'shells'] as const) {
    const m = shapeMesh(name);
    for (let i = 0; i < m.positions.length / 3; i += 7) {
      const [p, n] = [at(m, i), normal(m, i)];
      // Of the torus, away from its ring; of the cylinder, away from its axis.
      const ring = Math.hypot(p[0], p[1]);
      const middle: Vector =
        name === 'torus'
          ? [(p[0] / ring) * 0.42, (p[1] / ring) * 0.42, 0]
          : name === 'cylinder'
            ? [0, p[1], 0]
            : [0, 0, 0];
      expect(n[0] * (p[0] - middle[0]) + n[1] * (p[1] - middle[1]) + n[2] * (p[2] - middle[2])).toBeGreaterThan(0);
    }
  }
});
