import { WasmEvaluator } from '../backends/wasm/run.ts';
import { inForce, partsOf } from '../check/walk.ts';
import type { Step, Typed } from '../check/program.ts';
import type { Graph } from '../lower/lower.ts';
import { dependsOnTime, type Node } from '../ir/node.ts';
import type { Subject } from './subject.ts';

/**
 * How what is drawn in a coordinate moves over the square, in UV units a second: at size by size places, u then v, v
 * down. NaN where it cannot be told.
 */
export type VelocityField = Float32Array;

const STEP = 1 / 256;

/**
 * Velocities of the picture that a coordinate carries, by central differences: a place of the picture stays at one
 * coordinate c, so dc/dt + J w = 0 and w = -J^-1 dc/dt, J being the coordinate's Jacobian in uv. `coordinate` is a
 * pair; `time` is in seconds.
 */
export function velocityField(
  { graph, dials, images }: Subject,
  coordinate: Node,
  { time, size }: { readonly time: number; readonly size: number },
): VelocityField {
  const evaluator = new WasmEvaluator([coordinate], images);
  const count = size * size;
  const at = (seconds: number, du: number, dv: number): Float32Array => {
    evaluator.setFrame({ time: seconds, dials });
    return evaluator.picture(size, size, [du, dv])[0]!;
  };
  const dt = Math.min(1 / 120, graph.program.loop.seconds / 480);
  const [later, earlier, right, left, down, up] = [
    at(time + dt, 0, 0),
    at(time - dt, 0, 0),
    at(time, STEP, 0),
    at(time, -STEP, 0),
    at(time, 0, STEP),
    at(time, 0, -STEP),
  ];
  // A coordinate that starts over is a jump of whole units, not a motion.
  const slope = (a: number, b: number, over: number): number => (a - b - Math.round(a - b)) / over;
  const result = new Float32Array(count * 2);
  for (let i = 0; i < count; i++) {
    const [x, y] = [i * 2, i * 2 + 1];
    const [xt, yt] = [slope(later[x]!, earlier[x]!, 2 * dt), slope(later[y]!, earlier[y]!, 2 * dt)];
    const [xu, yu] = [slope(right[x]!, left[x]!, 2 * STEP), slope(right[y]!, left[y]!, 2 * STEP)];
    const [xv, yv] = [slope(down[x]!, up[x]!, 2 * STEP), slope(down[y]!, up[y]!, 2 * STEP)];
    const determinant = xu * yv - xv * yu;
    result[i * 2] = Math.abs(determinant) < 1e-6 ? NaN : -(yv * xt - xv * yt) / determinant;
    result[i * 2 + 1] = Math.abs(determinant) < 1e-6 ? NaN : -(xu * yt - yu * xt) / determinant;
  }
  return result;
}

/**
 * The coordinate that carries what a step shows: its own value where that is a pair, else the nearest pair that flows
 * into it, moving ones first. Undefined where none does.
 */
export function carriedBy(graph: Graph, step: Step): { readonly node: Node; readonly step: Step } | undefined {
  const seen = new Set<Step>();
  const queue: { typed: Typed; step: Step }[] = [{ typed: step.value, step }];
  let still: { readonly node: Node; readonly step: Step } | undefined;
  for (let at = queue.shift(); at; at = queue.shift()) {
    const { typed, step: of } = at;
    const node = graph.valueOf.get(typed);
    // What follows a path is a coordinate though a sample flows into it.
    const carries = typed.coordinates === true || (typed.kind === 'call' && typed.operation.family === 'motion');
    if (typed.type === 'vec2' && carries && node?.type === 'f2') {
      const owner = typed.kind === 'step' ? typed.step : of;
      if (dependsOnTime([node])) return { node, step: owner };
      still ??= { node, step: owner };
    }
    if (typed.kind === 'step') {
      const from = inForce(typed.step);
      if (from && !seen.has(from)) {
        seen.add(from);
        queue.push({ typed: from.value, step: from });
      }
    } else for (const part of partsOf(typed)) queue.push({ typed: part, step: of });
  }
  return still;
}
