import type { ImageSource } from '../image/pixels.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { BLOCK } from '../backends/wasm/compile.ts';
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

/** A value to look at. */
export interface Watched {
  readonly node: Node;
  /** A coordinate, whose whole repeats are no difference. */
  readonly wraps?: boolean;
  /** What to look for; all shifts where nothing is said. */
  readonly shifts?: readonly Shift[];
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
 * chance on a hard edge, so two are wanted. What is found is looked for at no further moment. `seconds` is the loop's
 * length.
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
  const evaluate = (time: number, [du, dv]: readonly [number, number]): void => {
    evaluator.setFrame({ time, dials });
    const [u, v] = evaluator.uvPlanes();
    for (let i = 0; i < PLACES; i++) {
      u[i] = us[i]! + du;
      v[i] = vs[i]! + dv;
    }
    evaluator.run(PLACES);
  };
  // Materials may have thousands of steps: no views and no arrays of their own for each.
  const { floats } = evaluator;
  let planes = 0;
  const looks = watched.map(({ node, wraps = false, shifts = SHIFTS }, root) => {
    const width = widthOf(node.type);
    const kept = planes;
    planes += width;
    return { now: evaluator.outputStart(root), kept: kept * PLACES, width, wraps, wanted: new Set(shifts) };
  });
  const before = new Float32Array(planes * PLACES);
  const found = watched.map((): Partial<Record<Shift, Witness>> => ({}));
  const hits = watched.map(() => ({ loop: 0, tile_u: 0, tile_v: 0 }));
  for (let m = 0; m < MOMENTS && looks.some((l) => l.wanted.size > 0); m++) {
    const time = spread(m, 0.6180339887) * seconds;
    evaluate(time, [0, 0]);
    for (const { now, kept, width } of looks)
      for (let c = 0; c < width; c++)
        before.set(floats.subarray(now + c * BLOCK, now + c * BLOCK + PLACES), kept + c * PLACES);
    for (const shift of SHIFTS) {
      if (!looks.some((l) => l.wanted.has(shift))) continue;
      const { loops, uv } = DISPLACEMENTS[shift];
      evaluate(time + loops * seconds, uv);
      looks.forEach(({ now, kept, width, wraps, wanted }, r) => {
        if (!wanted.has(shift)) return;
        let places = 0;
        let at = -1;
        let most = found[r]![shift]?.difference ?? CLOSED_WITHIN;
        for (let i = 0; i < PLACES; i++) {
          let difference = 0;
          for (let c = 0; c < width; c++) {
            let apart = Math.abs(floats[now + c * BLOCK + i]! - before[kept + c * PLACES + i]!);
            if (wraps) apart = Math.abs(apart - Math.round(apart));
            if (apart > difference) difference = apart;
          }
          if (!(difference > CLOSED_WITHIN)) continue;
          places++;
          if (difference <= most) continue;
          at = i;
          most = difference;
        }
        hits[r]![shift] += places;
        if (at >= 0) found[r]![shift] = { uv: [us[at]!, vs[at]!], time, difference: most };
        if (hits[r]![shift] > 1) wanted.delete(shift);
      });
    }
  }
  return found.map((of, r) => Object.fromEntries(Object.entries(of).filter(([shift]) => hits[r]![shift as Shift] > 1)));
}
