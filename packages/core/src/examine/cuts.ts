import { keywordOf } from '../check/walk.ts';
import type { Typed } from '../check/program.ts';
import type { Fix } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { PHRASES } from '../ops/phrases.ts';
import { substitute } from '../ir/substitute.ts';
import { measureJump, type Jump } from '../measure/jump.ts';
import { isProven } from '../prove/verdicts.ts';
import { findingAt, type Examined, type Finding } from './finding.ts';

/** A last frame that differs from the first by this many usual changes is seen. */
export const JUMP_LIMIT = 4;
/** Side of the pictures that a first look takes. */
export const QUICK = 24;

/** Whether it starts over with a jump as it is written here. */
function startsOver(typed: Typed): boolean {
  if (typed.kind === 'built-in') return typed.name === 'phase';
  if (typed.kind !== 'call' || typed.off || !typed.operation.jumps) return false;
  const { when } = typed.operation.jumps;
  return !when || keywordOf(typed, when.parameter) === when.word;
}

/** Saws that close on paper but jump to the eye: without them the loop would not. */
export function sawCuts({ program, expressions, proof, live, images, verdicts }: Examined, jump: Jump): Finding[] {
  const closed = verdicts.whole.verdicts.loop;
  if (jump.ratio < JUMP_LIMIT || jump.usual || !isProven(closed)) return [];
  const { graph, values } = proof;
  const { builder: b } = graph;
  const findings: Finding[] = [];
  for (const { typed, step } of expressions) {
    const node = graph.valueOf.get(typed);
    if (!step || !live.has(step) || step.off || !node || !startsOver(typed)) continue;
    const triangle = b.sub(1, b.abs(b.sub(b.mul(node, 2), 1)));
    const roots = [...graph.outputs.values()].map((root) => substitute(b, root, new Map([[node, triangle]])));
    const without = measureJump({ graph, dials: values.dials, images }, QUICK, roots).ratio;
    if (without < Math.max(2, jump.ratio / 2))
      findings.push(
        findingAt(say.sawCuts(step.name, jump.ratio), spanOf(typed), fixes(program.tree.text, typed), {
          lens: 'loop',
          step: step.index,
        }),
      );
  }
  return findings;
}

const spanOf = ({ from, to }: Typed): { from: number; to: number } => ({ from, to });

/** There and back in place of there and over again. */
function fixes(text: string, typed: Typed): Fix[] {
  const title = 'Make it go there and back';
  if (typed.kind === 'built-in') return [{ title, edits: [{ ...spanOf(typed), insert: PHRASES.thereAndBack }] }];
  const jumps = typed.kind === 'call' ? typed.operation.jumps : undefined;
  if (typed.kind !== 'call' || !jumps) return [];
  const { when, instead } = jumps;
  if (typeof instead === 'string') {
    const word = when && typed.args.get(when.parameter);
    return word ? [{ title, edits: [{ ...spanOf(word), insert: instead }] }] : [];
  }
  const { name } = typed.operation;
  if (!text.startsWith(name, typed.from)) return [];
  return [
    {
      title,
      edits: [
        { from: typed.from, to: typed.from + name.length, insert: instead.operation },
        { from: typed.to - 1, to: typed.to - 1, insert: `, ${instead.argument}` },
      ],
    },
  ];
}
