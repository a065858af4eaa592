import { describe, expect, it } from '@jest/globals';
import { allOf, islandsOf, refit, type Fitting, type MeshData, type Refit } from '@estela/core';
import fc from 'fast-check';
import { readMesh } from '@estela/codecs/mesh';

/** Polygons as they are modelled: faces of three or four corners, seen from their front against the clock. */
interface Polygons {
  readonly points: readonly (readonly [number, number, number])[];
  readonly faces: readonly (readonly number[])[];
}

/** How a program writes them. */
interface Writing {
  /** UVs of an automatic unwrap: each face lies somewhere by itself. */
  readonly unwrapped: boolean;
  readonly triangulated: boolean;
  /** Corners that were computed apart, so that their last digits differ. */
  readonly rounded: boolean;
  readonly seed: number;
}

const writing: fc.Arbitrary<Writing> = fc.record({
  unwrapped: fc.boolean(),
  triangulated: fc.boolean(),
  rounded: fc.boolean(),
  seed: fc.nat(),
});

function randoms(seed: number): () => number {
  let state = seed | 1;
  return () => ((state = Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) >>> 8) / 2 ** 24;
}

/** Rows of points, and faces between neighbours; `closed` joins the last column to the first. */
function gridOf(
  columns: number,
  rows: number,
  closed: boolean,
  at: (x: number, y: number) => [number, number, number],
): Polygons {
  const across = closed ? columns : columns + 1;
  const points = Array.from({ length: across * (rows + 1) }, (_, i) => at(i % across, Math.floor(i / across)));
  const faces = Array.from({ length: columns * rows }, (_, i) => {
    const [x, y] = [i % columns, Math.floor(i / columns)];
    const point = (dx: number, dy: number): number => (y + dy) * across + ((x + dx) % across);
    return [point(0, 0), point(1, 0), point(1, 1), point(0, 1)];
  });
  return { points, faces };
}

const ribbon = (columns: number, rows: number): Polygons =>
  gridOf(columns, rows, false, (x, y) => [x * 0.3, y * 0.25, Math.sin(x * 0.7) * 0.4]);
/** A bent tube, open at both ends, that widens. */
const tube = (columns: number, rows: number): Polygons =>
  gridOf(columns, rows, true, (x, y) => {
    const turn = (2 * Math.PI * x) / columns;
    const radius = 0.5 + y * 0.07;
    return [radius * Math.cos(turn) + y * y * 0.01, y * 0.4, -radius * Math.sin(turn)];
  });
/** A disc, or with `height` a cone: triangles about its middle, then rings of quads. */
function disc(sectors: number, rings: number, height: number): Polygons {
  const points: [number, number, number][] = [[0, 0, height]];
  for (let ring = 1; ring <= rings; ring++)
    for (let s = 0; s < sectors; s++) {
      const turn = (2 * Math.PI * s) / sectors;
      points.push([ring * Math.cos(turn), ring * Math.sin(turn), height * (1 - ring / rings)]);
    }
  const at = (ring: number, s: number): number => (ring === 0 ? 0 : 1 + (ring - 1) * sectors + (s % sectors));
  const faces = Array.from({ length: rings * sectors }, (_, i) => {
    const [ring, s] = [Math.floor(i / sectors), i % sectors];
    const rim = [at(ring + 1, s), at(ring + 1, s + 1)];
    return ring === 0 ? [0, ...rim] : [at(ring, s), ...rim, at(ring, s + 1)];
  });
  return { points, faces };
}

/** Each face with the UVs of its corners, and cut to triangles along one diagonal or the other. */
function written(
  { points, faces }: Polygons,
  { unwrapped, triangulated, seed }: Writing,
): { corners: number[]; uvs: [number, number][] }[] {
  const random = randoms(seed);
  const shared = points.map((): [number, number] => [random(), random()]);
  return faces.flatMap((face) => {
    const uvs = face.map((p): [number, number] => (unwrapped ? [random(), random()] : shared[p]!));
    const part = (...of: number[]): { corners: number[]; uvs: [number, number][] } => ({
      corners: of.map((k) => face[k]!),
      uvs: of.map((k) => uvs[k]!),
    });
    if (face.length === 3) return [part(0, 1, 2)];
    if (!triangulated) return [part(0, 1, 2, 3)];
    return random() < 0.5 ? [part(0, 1, 2), part(0, 2, 3)] : [part(1, 2, 3), part(1, 3, 0)];
  });
}

/** As Assimp writes OBJ: lists of their own for positions and UVs, each value once, with nine digits. */
function obj(of: Polygons, how: Writing): Uint8Array<ArrayBuffer> {
  const digits = (values: readonly number[]): string =>
    values.map((v) => String(Number(Math.fround(v).toPrecision(9)))).join(' ');
  const lists = { v: new Map<string, number>(), vt: new Map<string, number>() };
  const number = (kind: 'v' | 'vt', values: readonly number[]): number => {
    const key = digits(values);
    if (!lists[kind].has(key)) lists[kind].set(key, lists[kind].size + 1);
    return lists[kind].get(key)!;
  };
  const lines = written(of, how).map(
    ({ corners, uvs }) =>
      `f  ${corners.map((p, k) => `${String(number('v', of.points[p]!))}/${String(number('vt', [...uvs[k]!, 0]))}`).join(' ')} `,
  );
  const all = (['v', 'vt'] as const).flatMap((kind) => [...lists[kind].keys()].map((key) => `${kind} ${key}`));
  return new TextEncoder().encode(
    ['# File produced by Open Asset Import Library', ...all, 'g strip', ...lines, ''].join('\n'),
  );
}

/** As Assimp writes glTF without joining vertices: each face has its own, quads are two triangles, and a node turns and scales all. */
function gltf(of: Polygons, how: Writing): Uint8Array<ArrayBuffer> {
  const corners = written(of, how).flatMap(({ corners: points, uvs }) =>
    (points.length === 3 ? [0, 1, 2] : [0, 1, 2, 0, 2, 3]).map((k) => ({ place: of.points[points[k]!]!, uv: uvs[k]! })),
  );
  const random = randoms(how.seed + 1);
  const off = (): number => (how.rounded ? (random() - 0.5) * 4e-6 : 0);
  const values = Float32Array.from([
    ...corners.flatMap((c) => c.place.map((v) => (v + off()) * 100)),
    ...corners.flatMap((c) => c.uv),
  ]);
  const bytes = new Uint8Array(values.byteLength + corners.length * 4);
  bytes.set(new Uint8Array(values.buffer));
  bytes.set(new Uint8Array(Uint32Array.from(corners, (_, i) => i).buffer), values.byteLength);
  const view = (byteOffset: number, byteLength: number): object => ({ buffer: 0, byteOffset, byteLength });
  const count = corners.length;
  return new TextEncoder().encode(
    JSON.stringify({
      asset: { version: '2.0', generator: 'Open Asset Import Library (assimp v5.2.0)' },
      extensionsUsed: ['FB_ngon_encoding'],
      buffers: [
        {
          byteLength: bytes.length,
          uri: `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`,
        },
      ],
      bufferViews: [view(0, count * 12), view(count * 12, count * 8), view(count * 20, count * 4)],
      accessors: [
        { bufferView: 0, componentType: 5126, count, type: 'VEC3', min: [-1e3, -1e3, -1e3], max: [1e3, 1e3, 1e3] },
        { bufferView: 1, componentType: 5126, count, type: 'VEC2' },
        { bufferView: 2, componentType: 5125, count, type: 'SCALAR' },
      ],
      meshes: [{ primitives: [{ mode: 4, indices: 2, attributes: { POSITION: 0, TEXCOORD_0: 1 } }] }],
      nodes: [{ children: [1] }, { mesh: 0, matrix: [0.01, 0, 0, 0, 0, 0, -0.01, 0, 0, 0.01, 0, 0, 3, 0, 0, 1] }],
      scenes: [{ nodes: [0] }],
      scene: 0,
    }),
  );
}

async function fitted(name: 'a.obj' | 'a.gltf', polygons: Polygons, how: Writing, ...acts: Refit[]): Promise<MeshData> {
  const { mesh } = await readMesh(name, (name === 'a.obj' ? obj : gltf)(polygons, how));
  let value: Fitting = { mesh, islands: islandsOf(mesh), selected: allOf(mesh) };
  for (const act of acts) {
    const next = refit(value, act);
    if ('problem' in next) throw new Error(next.problem);
    value = { ...next, selected: allOf(next.mesh) };
  }
  return value.mesh;
}

/** Areas of all triangles in the UV square; each the other way round than v, which runs down. */
const areasOf = ({ uvs, indices }: MeshData): number[] =>
  Array.from({ length: indices.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => indices[t * 3 + k]! * 2) as [number, number, number];
    return -((uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[b + 1]! - uvs[a + 1]!) * (uvs[c]! - uvs[a]!)) / 2;
  });
const distinct = (values: Iterable<number>): number => new Set([...values].map((v) => Math.round(v * 1e4))).size;
/** One coordinate of each corner. */
const axisOf = ({ uvs, indices }: MeshData, axis: 0 | 1): number[] => Array.from(indices, (v) => uvs[v * 2 + axis]!);

const file = fc.constantFrom('a.obj' as const, 'a.gltf' as const);
const columns = fc.integer({ min: 3, max: 9 });
const rows = fc.integer({ min: 1, max: 4 });

describe('what other programs write', () => {
  it('comes out straight: ribbons and tubes, unwrapped face by face, of quads or of triangles', async () => {
    await fc.assert(
      fc.asyncProperty(file, fc.constantFrom(ribbon, tube), columns, rows, writing, async (name, of, x, y, how) => {
        const mesh = await fitted(name, of(x, y), how, { do: 'straighten', along: 'u' });
        const areas = areasOf(mesh);
        expect(Math.min(...areas)).toBeGreaterThan(0);
        expect(areas.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4);
        const lines = [distinct(axisOf(mesh, 0)), distinct(axisOf(mesh, 1))];
        expect(lines.sort((a, b) => a - b)).toEqual([x + 1, y + 1].sort((a, b) => a - b));
      }),
      { numRuns: 60 },
    );
  });

  it('is unrolled about its middle: discs and cones', async () => {
    const height = fc.constantFrom(0, 0.8, -2);
    await fc.assert(
      fc.asyncProperty(file, columns, rows, height, writing, async (name, sectors, rings, high, how) => {
        const mesh = await fitted(name, disc(sectors, rings, high), how, { do: 'unroll', about: 'faces' });
        const areas = areasOf(mesh);
        expect(Math.min(...areas)).toBeGreaterThan(0);
        // The triangles about the middle are half of their row.
        expect(areas.reduce((a, b) => a + b, 0)).toBeCloseTo(1 - 0.5 / rings, 4);
        expect(distinct(axisOf(mesh, 1))).toBe(rings + 1);
        expect(distinct(axisOf(mesh, 0).filter((_, i) => axisOf(mesh, 1)[i]! > 1e-4))).toBe(sectors + 1);
      }),
      { numRuns: 60 },
    );
  });
});
