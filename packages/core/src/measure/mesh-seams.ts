import { BLOCK } from '../backends/wasm/compile.ts';
import { WasmEvaluator } from '../backends/wasm/run.ts';
import { widthOf } from '../ir/node.ts';
import type { Subject } from './subject.ts';

const PLACES = 8;
const MOMENTS = 3;

/**
 * How far a material is from meeting itself over each seam: the largest difference of any output but the normal (whose
 * frame turns with the UVs) between the two sides, over 8 places along and 3 moments of the loop. `seams` has eight
 * numbers a seam: u and v at its two ends, then on the other side.
 */
export function seamGaps({ graph, dials, images }: Subject, seams: Float32Array): Float32Array {
  const count = seams.length / 8;
  const result = new Float32Array(count);
  const roots = [...graph.outputs].filter(([name]) => name !== 'normal').map(([, node]) => node);
  if (roots.length === 0) return result;
  const evaluator = new WasmEvaluator(roots, images);
  const planes = roots.flatMap((root, r) =>
    Array.from({ length: widthOf(root.type) }, (_, c) => evaluator.outputPlane(r, c)),
  );
  const [us, vs] = evaluator.uvPlanes();
  const each = BLOCK / PLACES;
  for (let m = 0; m < MOMENTS; m++) {
    evaluator.setFrame({ time: ((m + 0.37) / MOMENTS) * graph.program.loop.seconds, dials });
    for (let start = 0; start < count; start += each) {
      const some = Math.min(each, count - start);
      const side = (at: 0 | 4): Float32Array[] => {
        for (let i = 0; i < some * PLACES; i++) {
          const [seam, share] = [(start + Math.floor(i / PLACES)) * 8 + at, ((i % PLACES) + 0.5) / PLACES];
          us[i] = seams[seam]! + (seams[seam + 2]! - seams[seam]!) * share;
          vs[i] = seams[seam + 1]! + (seams[seam + 3]! - seams[seam + 1]!) * share;
        }
        evaluator.run(some * PLACES);
        return planes.map((p) => p.slice(0, some * PLACES));
      };
      const [one, other] = [side(0), side(4)];
      one.forEach((plane, c) => {
        plane.forEach((value, i) => {
          const seam = start + Math.floor(i / PLACES);
          result[seam] = Math.max(result[seam]!, Math.abs(value - other[c]![i]!));
        });
      });
    }
  }
  return result;
}
