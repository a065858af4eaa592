import type { ImageSource } from '../image/pixels.ts';
import type { Graph } from '../lower/lower.ts';

/** What is measured: a graph with the values of its dials, and its images; the test grid where one is not there. */
export interface Subject {
  readonly graph: Graph;
  /** In internal units. */
  readonly dials: ReadonlyMap<string, readonly number[]>;
  readonly images?: ImageSource | undefined;
}

/** What should lead back to the same: a loop of time, or one tile along an axis of the square. */
export type Shift = 'loop' | 'tile_u' | 'tile_v';
export const SHIFTS: readonly Shift[] = ['loop', 'tile_u', 'tile_v'];

/** How far each shift moves time, in loops, and the square, in UV units. */
export const DISPLACEMENTS: Readonly<
  Record<Shift, { readonly loops: number; readonly uv: readonly [number, number] }>
> = {
  loop: { loops: 1, uv: [0, 0] },
  tile_u: { loops: 0, uv: [1, 0] },
  tile_v: { loops: 0, uv: [0, 1] },
};
