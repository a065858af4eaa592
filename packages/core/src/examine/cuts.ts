import { expressionsOf, keywordOf } from '../check/walk.ts';
import type { Typed } from '../check/program.ts';
import type { Mend } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { substitute } from '../ir/substitute.ts';
import { measureJump, type Jump } from '../measure/jump.ts';
import { found, type Examined, type Finding } from './finding.ts';

/** A last frame that differs from the first by this many usual changes is seen. */
export const JUMP_LIMIT = 4;
/** Side of the pictures that a first look takes. */
export const QUICK = 24;

const isSaw = (typed: Typed): boolean =>
  (typed.kind === 'built-in' && typed.name === 'phase') ||
  (typed.kind === 'call' && !typed.off && (typed.operation.name === 'saw' || keywordOf(typed, 'shape') === 'saw'));

/** Saws that close on paper but jump to the eye: without them the loop would not. */
export function sawCuts({ program, proof, live, images, verdicts }: Examined, jump: Jump): Finding[] {
  const closed = verdicts.whole.verdicts.loop;
  if (jump.ratio < JUMP_LIMIT || jump.usual || (closed !== 'always' && closed !== 'present')) return [];
  const { graph, values } = proof;
  const { builder: b } = graph;
  const findings: Finding[] = [];
  for (const { typed, step } of expressionsOf(program)) {
    const node = graph.valueOf.get(typed);
    if (!step || !live.has(step) || step.off || !node || !isSaw(typed)) continue;
    const triangle = b.sub(1, b.abs(b.sub(b.mul(node, 2), 1)));
    const roots = [...graph.outputs.values()].map((root) => substitute(b, root, new Map([[node, triangle]])));
    const without = measureJump(graph, values.dials, QUICK, images, roots).ratio;
    if (without < Math.max(2, jump.ratio / 2))
      findings.push(
        found(say.sawCuts(step.name, jump.ratio), spanOf(typed), mends(program.tree.text, typed), {
          lens: 'loop',
          step: step.index,
        }),
      );
  }
  return findings;
}

const spanOf = ({ from, to }: Typed): { from: number; to: number } => ({ from, to });

/** There and back in place of there and over again. */
function mends(text: string, typed: Typed): Mend[] {
  const title = 'Let it go there and back';
  if (typed.kind === 'built-in')
    return [{ title, edits: [{ ...spanOf(typed), insert: 'wave(1 laps, shape: triangle)' }] }];
  if (typed.kind !== 'call') return [];
  const shape = typed.args.get('shape');
  if (shape) return [{ title, edits: [{ ...spanOf(shape), insert: 'triangle' }] }];
  const inner = text.slice(typed.from, typed.to);
  if (!inner.startsWith('saw')) return [];
  return [
    {
      title,
      edits: [
        { from: typed.from, to: typed.from + 3, insert: 'wave' },
        { from: typed.to - 1, to: typed.to - 1, insert: ', shape: triangle' },
      ],
    },
  ];
}
