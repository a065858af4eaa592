import { WasmEvaluator } from '../backends/wasm/run.ts';
import { widthOf } from '../ir/node.ts';
import { DISPLACEMENTS, type Shift, type Subject } from './subject.ts';

/**
 * How far the outputs are from what they were one shift ago, pixel by pixel: the largest difference of any component,
 * size by size values from the top left. `time` is the moment in seconds.
 */
export function differencePicture(
  { graph, dials, images }: Subject,
  shifts: readonly Shift[],
  { time, size }: { readonly time: number; readonly size: number },
): Float32Array {
  const result = new Float32Array(size * size);
  const roots = [...graph.outputs.values()];
  if (roots.length === 0) return result;
  const evaluator = new WasmEvaluator(roots, images);
  const at = (loops: number, uv: readonly [number, number]): Float32Array[] => {
    evaluator.setFrame({ time: time + loops * graph.program.loop.seconds, dials });
    return evaluator.picture(size, size, uv);
  };
  const before = at(0, [0, 0]);
  for (const shift of shifts) {
    const after = at(DISPLACEMENTS[shift].loops, DISPLACEMENTS[shift].uv);
    before.forEach((picture, r) => {
      const width = widthOf(roots[r]!.type);
      picture.forEach((value, i) => {
        const pixel = Math.floor(i / width);
        result[pixel] = Math.max(result[pixel]!, Math.abs(value - after[r]![i]!));
      });
    });
  }
  return result;
}
