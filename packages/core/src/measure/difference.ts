import { BLOCK } from '../backends/wasm/compile.ts';
import { WasmEvaluator } from '../backends/wasm/run.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { Graph } from '../lower/lower.ts';
import { widthOf } from '../ir/node.ts';
import type { Shift } from './witness.ts';

/**
 * How far the outputs are from what they were one shift ago, pixel by pixel: the largest difference of any component,
 * size by size values from the top left. `time` is the moment in seconds.
 */
export function differencePicture(
  graph: Graph,
  shifts: readonly Shift[],
  time: number,
  dials: ReadonlyMap<string, readonly number[]>,
  size: number,
  images?: ImageSource,
): Float32Array {
  const result = new Float32Array(size * size);
  const roots = [...graph.outputs.values()];
  if (roots.length === 0) return result;
  const evaluator = new WasmEvaluator(roots, images);
  const planes = roots.flatMap((root, r) =>
    Array.from({ length: widthOf(root.type) }, (_, c) => evaluator.outputPlane(r, c)),
  );
  const [us, vs] = evaluator.uvPlanes();
  const fill = (start: number, count: number, du: number, dv: number): void => {
    for (let i = 0; i < count; i++) {
      us[i] = (((start + i) % size) + 0.5) / size + du;
      vs[i] = (Math.floor((start + i) / size) + 0.5) / size + dv;
    }
    evaluator.run(count);
  };
  for (let start = 0; start < size * size; start += BLOCK) {
    const count = Math.min(BLOCK, size * size - start);
    evaluator.setFrame({ time, dials });
    fill(start, count, 0, 0);
    const before = planes.map((p) => p.slice(0, count));
    for (const shift of shifts) {
      evaluator.setFrame({ time: time + (shift === 'loop' ? graph.program.loop.seconds : 0), dials });
      fill(start, count, shift === 'tile_u' ? 1 : 0, shift === 'tile_v' ? 1 : 0);
      planes.forEach((plane, c) => {
        for (let i = 0; i < count; i++)
          result[start + i] = Math.max(result[start + i]!, Math.abs(plane[i]! - before[c]![i]!));
      });
    }
  }
  return result;
}
