import { say } from '../diagnostics/wording.ts';
import { lapsDial } from '../edits/laps-dial.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import { frameValues } from '../ir/hoist.ts';
import { isProven } from '../prove/verdicts.ts';
import type { Movement } from '../prove/motion.ts';
import { findingAt, lastStage, type Examined, type Finding } from './finding.ts';

/** Rate dials that multiply the time gone by: changed while running, what they drive leaps to another place. */
export function jumpingDials({ program, live }: Examined, movements: readonly Movement[]): Finding[] {
  const driven = movements.filter((m) => live.has(program.steps[m.step]!));
  return program.dials.flatMap((dial) => {
    const moves = dial.type === 'rate' ? driven.find((m) => m.dials.includes(dial.name)) : undefined;
    return moves
      ? [findingAt(say.dialJumps(dial.name), dial.nameSpan, lapsDial(program, dial), { step: moves.step })]
      : [];
  });
}

/** 32-bit floats above this have steps of 1/2048 and more: an eighth of a texel of 256. */
const COARSE = 4096;
const LATE = 20_000;
/** A shift's work: what keeps longer is not told. */
const HOURS = 24;

/**
 * Time until values that grow with time are too coarse for 32 bits, for a material that may not be started over at each
 * loop's end.
 */
export function lostPrecision({ program, proof, verdicts }: Examined, movements: readonly Movement[]): Finding[] {
  const { loop } = verdicts.whole.verdicts;
  if (isProven(loop)) return [];
  const { graph, values } = proof;
  const nodes = frameValues([...graph.outputs.values()]).filter((n) => n.type.startsWith('f'));
  const at = (time: number): ReadonlyMap<object, readonly number[]> =>
    evaluateFrame(nodes, { time, dials: values.dials });
  const [early, late] = [at(LATE), at(2 * LATE)];
  const slope = Math.max(
    0,
    ...nodes.flatMap((n) => (early.get(n) ?? []).map((v, i) => Math.abs((late.get(n)?.[i] ?? 0) - v) / LATE)),
  );
  const hours = COARSE / slope / 3600;
  const fastest = movements
    .filter((m) => m.state !== 'closes' && m.lane !== 'steps')
    .sort((a, b) => Math.abs(b.laps ?? 0) - Math.abs(a.laps ?? 0))[0];
  if (slope < 1e-3 || hours > HOURS || !fastest) return [];
  return [
    findingAt(say.losesPrecision(program.steps[fastest.step]!.name, hours), lastStage(program.tree.text, fastest), [], {
      step: fastest.step,
    }),
  ];
}
