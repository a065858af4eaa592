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

/** A place and a moment like any other, for what differs by as much everywhere. */
export const ANYWHERE: Pick<Witness, 'uv' | 'time'> = { uv: [Math.SQRT1_2, Math.SQRT1_2], time: 0 };

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
    PLACES,
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
  const looks = watched.map(({ node, wraps = false, shifts = SHIFTS }, root): Look => {
    const width = widthOf(node.type);
    const before = planes * PLACES;
    planes += width;
    return { now: evaluator.outputStart(root), before, width, wraps, shifts, hits: [0, 0, 0], found: {} };
  });
  const before = new Float32Array(planes * PLACES);
  const wants = (look: Look, s: number): boolean => look.hits[s]! < WANTED && look.shifts.includes(SHIFTS[s]!);
  for (let m = 0; m < MOMENTS; m++) {
    const open = looks.filter((l) => SHIFTS.some((_, s) => wants(l, s)));
    if (open.length === 0) break;
    const time = spread(m, 0.6180339887) * seconds;
    evaluate(time, [0, 0]);
    for (const l of open) before.set(floats.subarray(l.now, l.now + l.width * PLACES), l.before);
    SHIFTS.forEach((shift, s) => {
      const wanted = open.filter((l) => wants(l, s));
      if (wanted.length === 0) return;
      const { loops, uv } = DISPLACEMENTS[shift];
      evaluate(time + loops * seconds, uv);
      for (const look of wanted) {
        const { places, at, most } = compare(floats, before, look);
        look.hits[s]! += places;
        if (at >= 0 && most > (look.found[shift]?.difference ?? 0))
          look.found[shift] = { uv: [us[at]!, vs[at]!], time, difference: most };
      }
    });
  }
  return looks.map(({ found, hits }) =>
    Object.fromEntries(
      SHIFTS.flatMap((shift, s) => (found[shift] && hits[s]! >= WANTED ? [[shift, found[shift]]] : [])),
    ),
  );
}

/** Places with a difference that are wanted before a shift counts as open. */
const WANTED = 2;

/** One value looked at: where its planes begin, now and kept, and what was found of each shift. */
interface Look {
  readonly now: number;
  readonly before: number;
  readonly width: number;
  readonly wraps: boolean;
  readonly shifts: readonly Shift[];
  readonly hits: [number, number, number];
  readonly found: Partial<Record<Shift, Witness>>;
}

/** At how many places a value differs, and where most; `at` is -1 where it does nowhere. */
function compare(
  floats: Float32Array,
  kept: Float32Array,
  { now, before, width, wraps }: Look,
): { places: number; at: number; most: number } {
  let places = 0;
  let at = -1;
  let most = CLOSED_WITHIN;
  for (let i = 0; i < PLACES; i++) {
    let difference = 0;
    for (let c = i; c < width * PLACES; c += PLACES) {
      let apart = Math.abs(floats[now + c]! - kept[before + c]!);
      if (wraps) apart = Math.abs(apart - Math.round(apart));
      if (apart > difference) difference = apart;
    }
    if (!(difference > CLOSED_WITHIN)) continue;
    places++;
    if (difference <= most) continue;
    at = i;
    most = difference;
  }
  return { places, at, most };
}
