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
  const planesOf = watched.map(({ node }, r) =>
    Array.from({ length: widthOf(node.type) }, (_, c) => evaluator.outputPlane(r, c)),
  );
  const evaluate = (time: number, [du, dv]: readonly [number, number]): void => {
    evaluator.setFrame({ time, dials });
    const [u, v] = evaluator.uvPlanes();
    for (let i = 0; i < PLACES; i++) {
      u[i] = us[i]! + du;
      v[i] = vs[i]! + dv;
    }
    evaluator.run(PLACES);
  };
  const start = planesOf.map((planes) => planes.map(() => new Float32Array(PLACES)));
  const found = watched.map((): Partial<Record<Shift, Witness>> => ({}));
  const hits = watched.map((): Record<Shift, number> => ({ loop: 0, tile_u: 0, tile_v: 0 }));
  /** Largest difference of any component, by place. */
  const differences = new Float64Array(PLACES);
  const compare = (shift: Shift, time: number): void => {
    planesOf.forEach((planes, r) => {
      const { wraps } = watched[r]!;
      differences.fill(0);
      planes.forEach((plane, c) => {
        const before = start[r]![c]!;
        for (let i = 0; i < PLACES; i++) {
          const apart = Math.abs(plane[i]! - before[i]!);
          const difference = wraps ? Math.abs(apart - Math.round(apart)) : apart;
          if (difference > differences[i]!) differences[i] = difference;
        }
      });
      for (let i = 0; i < PLACES; i++) {
        const difference = differences[i]!;
        if (!(difference > CLOSED_WITHIN)) continue;
        hits[r]![shift]++;
        if (difference > (found[r]![shift]?.difference ?? 0))
          found[r]![shift] = { uv: [us[i]!, vs[i]!], time, difference };
      }
    });
  };
  for (let m = 0; m < MOMENTS; m++) {
    const time = spread(m, 0.6180339887) * seconds;
    evaluate(time, [0, 0]);
    planesOf.forEach((planes, r) => {
      planes.forEach((plane, c) => {
        start[r]![c]!.set(plane.subarray(0, PLACES));
      });
    });
    for (const shift of SHIFTS) {
      const { loops, uv } = DISPLACEMENTS[shift];
      evaluate(time + loops * seconds, uv);
      compare(shift, time);
    }
  }
  return found.map((of, r) => Object.fromEntries(Object.entries(of).filter(([shift]) => hits[r]![shift as Shift] > 1)));
}
