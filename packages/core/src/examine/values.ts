import { WasmEvaluator } from '../backends/wasm/run.ts';
import { say } from '../diagnostics/wording.ts';
import type { Span } from '../diagnostics/diagnostic.ts';
import { dependsOnTime, widthOf, type Node } from '../ir/node.ts';
import { PHRASES } from '../ops/phrases.ts';
import type { Step } from '../check/program.ts';
import { findingAt, type Check, type Finding } from './finding.ts';

const SIZE = 24;
const MOMENTS = 12;
/** Rounding in the last bits is no value out of range. */
const SLACK = 1e-3;

interface Watched extends Span {
  readonly node: Node;
  readonly step: Step;
  readonly judge: (low: number, high: number) => Finding | undefined;
}

/**
 * Values that leave the range that makes sense of them, seen by evaluation over the square and the loop; and divisions
 * by what may be nothing.
 */
export const valueRanges: Check = ({ program, expressions, proof, live, images }) => {
  const { graph, values } = proof;
  const watched: Watched[] = [];
  for (const step of program.steps) {
    const node = graph.steps[step.index]!;
    if (step.kind !== 'out' || step.off || graph.outputs.get(step.name) !== node) continue;
    const span = step.value;
    const at = (said: Parameters<typeof findingAt>[0], fix?: string): Finding =>
      findingAt(
        said,
        span,
        fix === undefined ? [] : [{ title: 'Clamp to 0-1', edits: [{ from: span.to, to: span.to, insert: fix }] }],
        {
          lens: 'material',
          step: step.index,
        },
      );
    if (step.name === 'opacity' || step.name === 'metallic' || step.name === 'roughness')
      watched.push({
        ...span,
        node,
        step,
        judge: (low, high) =>
          low < -SLACK || high > 1 + SLACK
            ? at(say.outOfUnit(step.name, low, high), ` |> ${PHRASES.clampToUnit}`)
            : undefined,
      });
    else if (step.name === 'color' || step.name === 'emissive') {
      // Alpha is no light.
      const light = widthOf(node.type) === 4 ? graph.builder.swizzle(node, 0, 1, 2) : node;
      watched.push({
        ...span,
        node: light,
        step,
        judge: (low) => (low < -SLACK ? at(say.negativeLight(step.name, low)) : undefined),
      });
    }
  }
  for (const { typed, step } of expressions) {
    if (!step || !live.has(step) || step.off) continue;
    const bad = (operand: Span, said: Parameters<typeof findingAt>[0]): Finding =>
      findingAt(said, operand, [], { lens: 'step', step: step.index });
    if (typed.kind === 'binary' && typed.operator === '/') {
      const node = graph.valueOf.get(typed.right);
      const { right } = typed;
      if (node)
        watched.push({
          ...right,
          node,
          step,
          judge: (low, high) => (low <= 0 && high >= 0 ? bad(right, say.mayDivideByZero(low, high)) : undefined),
        });
    }
    if (typed.kind === 'call' && typed.operation.domain) {
      const [arg] = typed.args.values();
      const node = arg && graph.valueOf.get(arg);
      const { name, domain } = typed.operation;
      if (arg && node)
        watched.push({
          ...arg,
          node,
          step,
          judge: (low) =>
            (domain === 'positive' ? low <= 0 : low < 0) ? bad(arg, say.rootOfNegative(name, low)) : undefined,
        });
    }
  }
  if (watched.length === 0) return [];
  const evaluator = new WasmEvaluator(
    watched.map((w) => w.node),
    images,
  );
  const ranges = watched.map(() => [Infinity, -Infinity] as [number, number]);
  const moments = dependsOnTime(watched.map((w) => w.node)) ? MOMENTS : 1;
  for (let m = 0; m < moments; m++) {
    evaluator.setFrame({ time: (m / MOMENTS) * program.loop.seconds, dials: values.dials });
    evaluator.picture(SIZE, SIZE).forEach((plane, i) => {
      let [low, high] = ranges[i]!;
      for (const v of plane) {
        if (v < low) low = v;
        if (v > high) high = v;
      }
      ranges[i] = [low, high];
    });
  }
  return watched.flatMap((w, i) => w.judge(...ranges[i]!) ?? []);
};
