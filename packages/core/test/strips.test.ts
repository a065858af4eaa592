import { describe, expect, it } from '@jest/globals';
import {
  allOf,
  connectedTo,
  faceGraphOf,
  islandsOf,
  loopsThrough,
  refit,
  selectionOf,
  weldedPlaces,
  withNormals,
  type Fitting,
  type MeshData,
} from '@estela/core';
import fc from 'fast-check';

/** A strip in space: a quad's triangles, how they are torn, in which order they stand, and how it closes. */
interface Shape {
  readonly columns: number;
  readonly rows: number;
  readonly closed: boolean;
  readonly torn: 'not' | 'quads' | 'triangles';
  readonly seed: number;
}

const shape: fc.Arbitrary<Shape> = fc
  .record({
    columns: fc.integer({ min: 1, max: 9 }),
    rows: fc.integer({ min: 1, max: 4 }),
    closed: fc.boolean(),
    torn: fc.constantFrom('not' as const, 'quads' as const, 'triangles' as const),
    seed: fc.nat(),
  })
  // A ring of fewer than three has edges that lie on each other.
  .map((s) => ({ ...s, closed: s.closed && s.columns >= 3 }));

function randoms(seed: number): () => number {
  let state = seed | 1;
  return () => ((state = Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) >>> 8) / 2 ** 24;
}

/** With UVs by chance where it is torn; each triangle's corners come with their column and row. */
function stripMesh({ columns, rows, closed, torn, seed }: Shape): { mesh: MeshData; cells: [number, number][] } {
  const random = randoms(seed);
  const widths = Array.from({ length: columns }, () => 0.3 + random());
  const whole = widths.reduce((sum, w) => sum + w, 0);
  const at = [0];
  for (const width of widths) at.push(at.at(-1)! + width / whole);
  const place = (x: number, y: number): number[] => {
    const turn = at[x]! * (closed ? 2 * Math.PI : 4);
    // A ring leans outward, so that no two of its rows are alike.
    const radius = closed ? 2 + y * 0.1 : 2 + at[x]!;
    return [radius * Math.cos(turn), y * 0.5, radius * Math.sin(turn)];
  };
  const quads: { corners: [number, number][][] }[] = [];
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      const [a, b, c, d]: [number, number][] = [
        [x, y],
        [x + 1, y],
        [x + 1, y + 1],
        [x, y + 1],
      ];
      const corners =
        random() < 0.5
          ? [
              [a!, b!, c!],
              [a!, c!, d!],
            ]
          : [
              [a!, b!, d!],
              [b!, c!, d!],
            ];
      quads.push({ corners });
    }
  const triangles = quads.flatMap(({ corners }, q) => corners.map((triangle) => ({ triangle, q })));
  // Other programs write triangles in any order.
  if (seed % 2 === 1) triangles.sort(() => random() - 0.5);
  const vertices: { place: number[]; uv: [number, number] }[] = [];
  const known = new Map<string, number>();
  const cells: [number, number][] = [];
  const indices = triangles.flatMap(({ triangle, q }, t) =>
    triangle.map(([x, y]) => {
      cells.push([x, y]);
      const piece = torn === 'not' ? 0 : torn === 'quads' ? q : t;
      const key = `${String(piece)} ${String(x)} ${String(y)}`;
      let vertex = known.get(key);
      if (vertex === undefined) {
        known.set(key, (vertex = vertices.length));
        const uv: [number, number] = torn === 'not' ? [x / columns, y / rows] : [random() * 3, random() * 3];
        vertices.push({ place: place(closed ? x % columns : x, y), uv });
      }
      return vertex;
    }),
  );
  const bare = {
    positions: Float32Array.from(vertices.flatMap((v) => v.place)),
    normals: new Float32Array(vertices.length * 3),
    uvs: Float32Array.from(vertices.flatMap((v) => v.uv)),
    indices: Uint32Array.from(indices),
  };
  return { mesh: withNormals(bare, weldedPlaces(bare)), cells };
}

const fittingOf = (mesh: MeshData): Fitting => ({ mesh, islands: islandsOf(mesh), selected: allOf(mesh) });

describe('strips as they lie in space', () => {
  it('come out straight, whole and not mirrored, however their UVs are torn and their triangles ordered', () => {
    fc.assert(
      fc.property(shape, fc.constantFrom('u' as const, 'v' as const), (of, along) => {
        const { mesh, cells } = stripMesh(of);
        const done = refit(fittingOf(mesh), { do: 'straighten', along });
        if ('problem' in done) throw new Error(done.problem);
        const { uvs, indices } = done.mesh;
        let area = 0;
        for (let t = 0; t < indices.length; t += 3) {
          const [a, b, c] = [0, 1, 2].map((k) => indices[t + k]! * 2) as [number, number, number];
          const own =
            ((uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[b + 1]! - uvs[a + 1]!) * (uvs[c]! - uvs[a]!)) / 2;
          expect(own).toBeLessThan(0);
          area -= own;
        }
        // Together they fill the square: nothing lies over anything else.
        expect(area).toBeCloseTo(1, 4);
        expect([Math.min(...uvs), Math.max(...uvs)]).toEqual([0, 1]);
        // What lies in one row, or in one column, has one coordinate there; of a ring that is cut, two at the cut.
        for (const k of of.closed ? ([1] as const) : ([0, 1] as const)) {
          const lines = new Map<number, Set<string>[]>();
          indices.forEach((v, i) => {
            const line = cells[i]![k];
            const seen = lines.get(line) ?? [new Set(), new Set()];
            seen.forEach((some, axis) => some.add(uvs[v * 2 + axis]!.toFixed(4)));
            lines.set(line, seen);
          });
          expect([0, 1].some((axis) => [...lines.values()].every((seen) => seen[axis]!.size === 1))).toBe(true);
        }
        expect(done.islands.count).toBe(1);
      }),
      { numRuns: 200 },
    );
  });

  it('of which some faces are selected leave the others as they were', () => {
    const { mesh } = stripMesh({ columns: 6, rows: 2, closed: false, torn: 'not', seed: 4 });
    const selected = allOf(mesh).map((_, t) => (t < 12 ? 1 : 0));
    const done = refit({ ...fittingOf(mesh), selected }, { do: 'straighten', along: 'u' });
    if ('problem' in done) throw new Error(done.problem);
    for (let i = 36; i < mesh.indices.length; i++)
      expect([...done.mesh.uvs.subarray(done.mesh.indices[i]! * 2, done.mesh.indices[i]! * 2 + 2)]).toEqual([
        ...mesh.uvs.subarray(mesh.indices[i]! * 2, mesh.indices[i]! * 2 + 2),
      ]);
  });

  it('that branch, or are several pieces, are refused with the faces that stand in the way', () => {
    const { mesh } = stripMesh({ columns: 5, rows: 3, closed: false, torn: 'quads', seed: 2 });
    const without = (cells: readonly number[]): Fitting => {
      const selected = allOf(mesh);
      for (const cell of cells) selected[cell * 2] = selected[cell * 2 + 1] = 0;
      return { ...fittingOf(mesh), selected };
    };
    // A row of five, and one that leaves it in the middle.
    const branch = refit(without([5, 6, 8, 9, 10, 11, 13, 14]), { do: 'straighten', along: 'u' });
    expect(branch).toMatchObject({ problem: expect.stringContaining('branches'), triangles: [14, 15, 24, 25] });
    const pieces = refit(without([5, 6, 7, 8, 9]), { do: 'straighten', along: 'u' });
    expect(pieces).toMatchObject({ problem: expect.stringContaining('several pieces') });
  });

  it('get edge loops at equal shares of their length where they are torn, without a gap in space', () => {
    const { mesh } = stripMesh({ columns: 4, rows: 1, closed: false, torn: 'quads', seed: 8 });
    const cut = refit(fittingOf(mesh), { do: 'loops', across: 'u', count: 7 });
    if ('problem' in cut) throw new Error(cut.problem);
    const straight = refit(cut, { do: 'straighten', along: 'u' });
    if ('problem' in straight) throw new Error(straight.problem);
    const us = [...new Set([...straight.mesh.uvs].filter((_, i) => i % 2 === 0).map((u) => u.toFixed(3)))];
    expect(us.length).toBeGreaterThanOrEqual(4 + 7);
    for (let i = 1; i <= 7; i++) expect(us).toContain((i / 8).toFixed(3));
  });
});

describe('separating and joining', () => {
  it('joining what was separated gives one island again, and what was torn comes together', () => {
    const { mesh } = stripMesh({ columns: 6, rows: 2, closed: false, torn: 'not', seed: 6 });
    const selected = allOf(mesh).map((_, t) => (t < 6 ? 1 : 0));
    const apart = refit({ ...fittingOf(mesh), selected }, { do: 'separate' });
    if ('problem' in apart) throw new Error(apart.problem);
    expect(apart.islands.count).toBe(2);
    expect(refit(apart, { do: 'separate' })).toMatchObject({ problem: expect.stringContaining('separate already') });
    const again = refit({ ...apart, selected: allOf(apart.mesh) }, { do: 'join' });
    expect(again).toMatchObject({ islands: { count: 1 } });
    const torn = stripMesh({ columns: 5, rows: 1, closed: false, torn: 'quads', seed: 3 }).mesh;
    expect(islandsOf(torn).count).toBe(5);
    expect(refit(fittingOf(torn), { do: 'join' })).toMatchObject({ islands: { count: 1 } });
    expect(
      refit({ ...apart, selected: selectionOf(apart.mesh, apart.islands, new Set([0])) }, { do: 'join' }),
    ).toMatchObject({ problem: expect.stringContaining('no edges to join') });
  });
});

describe('selecting in space', () => {
  it('loops run along and across; what is connected is found over torn edges', () => {
    const { mesh } = stripMesh({ columns: 7, rows: 3, closed: true, torn: 'triangles', seed: 2 });
    const graph = faceGraphOf(mesh);
    const only = (...cells: number[]): Uint8Array => {
      const selected = allOf(mesh).fill(0);
      for (const cell of cells) selected[cell * 2] = 1;
      return selected;
    };
    const cellsOf = (selected: Uint8Array): number[] =>
      [...selected.keys()].filter((t) => t % 2 === 0 && selected[t] === 1).map((t) => t / 2);
    expect(cellsOf(loopsThrough(graph, only(8)))).toEqual([7, 8, 9, 10, 11, 12, 13]);
    expect(cellsOf(loopsThrough(graph, only(8, 15)))).toEqual([1, 8, 15]);
    expect(cellsOf(connectedTo(graph, only(3))).length).toBe(21);
  });
});
