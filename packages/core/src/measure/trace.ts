import { WasmEvaluator } from '../backends/wasm/run.ts';
import { widthOf } from '../ir/node.ts';
import { srgbByte } from '../ops/srgb.ts';
import type { Subject } from './subject.ts';

/** A line on the UV square, from its start to its end. */
export interface TraceLine {
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
}

/** How much more than a loop a trace shows, so that its start stands beside its end. */
export const TRACE_LOOPS = 1.25;

/**
 * The colour along a line against time: `columns` moments over one and a quarter loops, each with `rows` places along
 * the line,
 * as RGBA bytes in sRGB, a row for each place. What is see-through shows grey.
 */
export function traceOf(
  { graph, dials, images }: Subject,
  line: TraceLine,
  { columns, rows }: { readonly columns: number; readonly rows: number },
): Uint8ClampedArray<ArrayBuffer> {
  const result = new Uint8ClampedArray(columns * rows * 4).fill(255);
  const color = graph.outputs.get('color') ?? graph.outputs.get('emissive') ?? [...graph.outputs.values()][0];
  if (!color) return result;
  const opacity = graph.program.surface.mode === 'opaque' ? undefined : graph.outputs.get('opacity');
  const evaluator = new WasmEvaluator(opacity ? [color, opacity] : [color], images);
  const planes = Array.from({ length: widthOf(color.type) }, (_, c) => evaluator.outputPlane(0, c));
  const alphas = opacity
    ? evaluator.outputPlane(1, 0)
    : graph.program.surface.mode === 'opaque'
      ? undefined
      : planes[3];
  for (let x = 0; x < columns; x++) {
    evaluator.setFrame({ time: ((x + 0.5) / columns) * TRACE_LOOPS * graph.program.loop.seconds, dials });
    const [us, vs] = evaluator.uvPlanes();
    for (let y = 0; y < rows; y++) {
      const t = (y + 0.5) / rows;
      us[y] = line.from[0] + (line.to[0] - line.from[0]) * t;
      vs[y] = line.from[1] + (line.to[1] - line.from[1]) * t;
    }
    evaluator.run(rows);
    for (let y = 0; y < rows; y++) {
      const alpha = Math.min(Math.max(alphas?.[y] ?? 1, 0), 1);
      for (let c = 0; c < 3; c++) {
        const value = (planes[c] ?? planes[0]!)[y]!;
        result[(y * columns + x) * 4 + c] = srgbByte(Math.min(Math.max(value, 0), 1) * alpha + GROUND * (1 - alpha));
      }
    }
  }
  return result;
}

/** Linear grey behind what is see-through. */
const GROUND = 0.03;
