import { flattenPath } from '../image/path-map.ts';
import type { Vector } from './vector.ts';

/** Further copies of a mesh: in a row, each a step on from the last, or along a curve on the floor, turned with it. */
export type Copies =
  | { readonly kind: 'row'; readonly count: number; readonly step: Vector }
  | {
      readonly kind: 'curve';
      readonly count: number;
      readonly points: readonly (readonly [x: number, z: number])[];
      readonly closed: boolean;
    };

/** Where a mesh stands: metres; degrees about x, y and z, y turned last; one scale for all. */
export interface Placing {
  readonly position: Vector;
  readonly turn: Vector;
  readonly scale: number;
  readonly copies: Copies | null;
}

/** Most copies of one mesh. */
export const COPY_LIMIT = 200;

/** A 4x4 matrix, columns first. */
export type Matrix = readonly number[];

export const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const product = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 16 }, (_, i) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + (i % 4)]! * b[Math.floor(i / 4) * 4 + k]!, 0),
  );
const shift = ([x, y, z]: Vector): Matrix => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const rotation = (axis: 0 | 1 | 2, degrees: number): Matrix => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const matrix = [...IDENTITY];
  const [i, j] = [(axis + 1) % 3, (axis + 2) % 3];
  [matrix[i * 4 + i], matrix[i * 4 + j], matrix[j * 4 + i], matrix[j * 4 + j]] = [c, s, -s, c];
  return matrix;
};

/** A place moved by a matrix. */
export const transformPoint = (m: Matrix, [x, y, z]: Vector): Vector =>
  [0, 1, 2].map((k) => m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!) as unknown as Vector;

/** Where each copy stands, the first one too; `spin` turns each about its own upright, in degrees. */
export function instancesOf({ position, turn, scale, copies }: Placing, spin = 0): Matrix[] {
  const base = [rotation(1, turn[1]), rotation(0, turn[0]), rotation(2, turn[2]), scaling(scale)].reduce(
    product,
    shift(position),
  );
  const spun = rotation(1, spin);
  return placesOf(copies).map((place) => product(product(base, place), spun));
}

const scaling = (s: number): Matrix => [s, 0, 0, 0, 0, s, 0, 0, 0, 0, s, 0, 0, 0, 0, 1];

function placesOf(copies: Copies | null): Matrix[] {
  if (!copies) return [IDENTITY];
  const count = Math.min(Math.max(Math.round(copies.count), 1), COPY_LIMIT);
  if (copies.kind === 'row')
    return Array.from({ length: count }, (_, i) => shift([copies.step[0] * i, copies.step[1] * i, copies.step[2] * i]));
  const curve = flattenPath({
    points: copies.points.map(([x, y]) => ({ x, y, width: 0 })),
    closed: copies.closed,
    size: 1,
  });
  if (curve.length < 2) return [IDENTITY];
  return Array.from({ length: count }, (_, i) => {
    const along = copies.closed ? i / count : count === 1 ? 0 : i / (count - 1);
    const next = Math.min(
      Math.max(
        curve.findIndex((p) => p.along >= along - 1e-9),
        1,
      ),
      curve.length - 1,
    );
    const [a, b] = [curve[next - 1]!, curve[next]!];
    const share = Math.min(Math.max((along - a.along) / Math.max(b.along - a.along, 1e-9), 0), 1);
    const way = (Math.atan2(-(b.y - a.y), b.x - a.x) * 180) / Math.PI;
    return product(shift([a.x + (b.x - a.x) * share, 0, a.y + (b.y - a.y) * share]), rotation(1, way));
  });
}
