import type { ImageSource } from '../image/pixels.ts';
import type { Graph } from '../ir/lower.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { WasmEvaluator } from '../backends/wasm/run.ts';

/** A moment or place after which a material differs from where it began. */
export interface Witness {
  readonly uv: readonly [number, number];
  /** Seconds. */
  readonly time: number;
  /** The output, and how far its components are apart at most. */
  readonly output: string;
  readonly difference: number;
}
export type Shift = 'loop' | 'tile_u' | 'tile_v';

/** Differences up to this are none. */
export const CLOSED_WITHIN = 1 / 512;
const PLACES = 256;
const MOMENTS = 4;

/** Places and moments spread by the golden ratio's kin (R2 sequence, M. Roberts, 2018): none of them on a lattice that a material is likely to have. */
const spread = (i: number, by: number): number => (0.5 + i * by) % 1;
const PLASTIC = 1.324717957244746;

/**
 * Looks for places where the outputs after one loop, or one tile, differ by more than 1/512 from what they were.
 * Finding none proves nothing; what is found is certain, but for a place that lies by chance on a hard edge, so two are wanted.
 */
export function findWitnesses(graph: Graph, dials: ReadonlyMap<string, readonly number[]>, images?: ImageSource): Partial<Record<Shift, Witness>> {
  const outputs = [...graph.outputs];
  if (outputs.length === 0) return {};
  const roots: readonly Node[] = outputs.map(([, node]) => node);
  const evaluator = new WasmEvaluator(roots, images);
  const { seconds } = graph.program.loop;
  const us = Float32Array.from({ length: PLACES }, (_, i) => spread(i, 1 / PLASTIC));
  const vs = Float32Array.from({ length: PLACES }, (_, i) => spread(i, 1 / (PLASTIC * PLASTIC)));
  const at = (time: number, du: number, dv: number): Float32Array[] => {
    evaluator.setFrame({ time, dials });
    const [u, v] = evaluator.uvPlanes();
    for (let i = 0; i < PLACES; i++) {
      u[i] = us[i]! + du;
      v[i] = vs[i]! + dv;
    }
    evaluator.run(PLACES);
    return roots.flatMap((root, r) => Array.from({ length: widthOf(root.type) }, (_, c) => evaluator.outputPlane(r, c).slice(0, PLACES)));
  };
  const owners = outputs.flatMap(([name, node]) => Array.from({ length: widthOf(node.type) }, () => name));
  const found: Partial<Record<Shift, Witness>> = {};
  const hits: Record<Shift, number> = { loop: 0, tile_u: 0, tile_v: 0 };
  for (let m = 0; m < MOMENTS; m++) {
    const time = spread(m, 0.6180339887) * seconds;
    const start = at(time, 0, 0);
    const compare = (shift: Shift, after: readonly Float32Array[]): void => {
      start.forEach((plane, c) => {
        for (let i = 0; i < PLACES; i++) {
          const difference = Math.abs(after[c]![i]! - plane[i]!);
          if (!(difference > CLOSED_WITHIN)) continue;
          hits[shift]++;
          if (difference > (found[shift]?.difference ?? 0)) found[shift] = { uv: [us[i]!, vs[i]!], time, output: owners[c] ?? '', difference };
        }
      });
    };
    compare('loop', at(time + seconds, 0, 0));
    compare('tile_u', at(time, 1, 0));
    compare('tile_v', at(time, 0, 1));
  }
  return Object.fromEntries(Object.entries(found).filter(([shift]) => hits[shift as Shift] > 1));
}
