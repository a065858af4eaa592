import type { ImageSource } from '../image/pixels.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { WasmEvaluator } from '../backends/wasm/run.ts';
import { DISPLACEMENTS, SHIFTS, type Shift } from './subject.ts';

/** A moment or place after which a value differs from where it began. */
export interface Witness {
  readonly uv: readonly [number, number];
  /** Seconds. */
  readonly time: number;
  /** How far its components are apart at most. */
  readonly difference: number;
}

/** A value to look at; `wraps` for a coordinate, whose whole repeats are no difference. */
export interface Watched {
  readonly node: Node;
  readonly wraps?: boolean;
}

/** Differences up to this are none. */
export const CLOSED_WITHIN = 1 / 512;
const PLACES = 256;
const MOMENTS = 4;

/**
 * Places and moments spread by the golden ratio's kin (R2 sequence, M. Roberts, 2018): none of them on a lattice that a
 * material is likely to have.
 */
const spread = (i: number, by: number): number => (Math.SQRT2 / 3 + (i + 1) * by) % 1;
const PLASTIC = 1.324717957244746;

/**
 * Looks for places where values after one loop, or one tile, differ by more than 1/512 from what they were: for each
 * value what was found, by shift. Finding none proves nothing; what is found is certain, but for a place that lies by
 * chance on a hard edge, so two are wanted. `seconds` is the loop's length.
 */
export function findWitnesses(
  watched: readonly Watched[],
  seconds: number,
  dials: ReadonlyMap<string, readonly number[]>,
  images?: ImageSource,
): Partial<Record<Shift, Witness>>[] {
  if (watched.length === 0) return [];
  const evaluator = new WasmEvaluator(
    watched.map((w) => w.node),
    images,
  );
  const us = Float32Array.from({ length: PLACES }, (_, i) => spread(i, 1 / PLASTIC));
  const vs = Float32Array.from({ length: PLACES }, (_, i) => spread(i, 1 / (PLASTIC * PLASTIC)));
  const at = (time: number, [du, dv]: readonly [number, number]): Float32Array[][] => {
    evaluator.setFrame({ time, dials });
    const [u, v] = evaluator.uvPlanes();
    for (let i = 0; i < PLACES; i++) {
      u[i] = us[i]! + du;
      v[i] = vs[i]! + dv;
    }
    evaluator.run(PLACES);
    return watched.map(({ node }, r) =>
      Array.from({ length: widthOf(node.type) }, (_, c) => evaluator.outputPlane(r, c).slice(0, PLACES)),
    );
  };
  const found = watched.map((): Partial<Record<Shift, Witness>> => ({}));
  const hits = watched.map((): Record<Shift, number> => ({ loop: 0, tile_u: 0, tile_v: 0 }));
  for (let m = 0; m < MOMENTS; m++) {
    const time = spread(m, 0.6180339887) * seconds;
    const start = at(time, [0, 0]);
    const compare = (shift: Shift, after: readonly (readonly Float32Array[])[]): void => {
      start.forEach((planes, r) => {
        for (let i = 0; i < PLACES; i++) {
          const difference = planes.reduce((max, plane, c) => {
            const apart = Math.abs(after[r]![c]![i]! - plane[i]!);
            return Math.max(max, watched[r]!.wraps ? Math.abs(apart - Math.round(apart)) : apart);
          }, 0);
          if (!(difference > CLOSED_WITHIN)) continue;
          hits[r]![shift]++;
          if (difference > (found[r]![shift]?.difference ?? 0))
            found[r]![shift] = { uv: [us[i]!, vs[i]!], time, difference };
        }
      });
    };
    for (const shift of SHIFTS) {
      const { loops, uv } = DISPLACEMENTS[shift];
      compare(shift, at(time + loops * seconds, uv));
    }
  }
  return found.map((of, r) => Object.fromEntries(Object.entries(of).filter(([shift]) => hits[r]![shift as Shift] > 1)));
}
