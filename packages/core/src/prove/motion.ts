import type { Step, Typed } from '../check/program.ts';
import { inForce, partsOf, stepsIn, within } from '../check/walk.ts';
import type { Span } from '../diagnostics/diagnostic.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import type { Node } from '../ir/node.ts';
import { flowsIn } from '../ops/operation.ts';
import { hasOwnTime, ratesOf, type Blame } from './blame.ts';
import { fractionOf } from './exact.ts';
import type { Proof } from './proof.ts';
import type { Verdict } from './verdicts.ts';

/** One motion of a step: a call that moves, a rate times time, or time as it is. */
export interface Movement extends Span {
  /** Index of its step. */
  readonly step: number;
  /** The operation's name; `time` where it is none. */
  readonly kind: string;
  /** Periods a loop in the present setting, where one number says it. */
  readonly laps?: number;
  /** Dials that its rate is made of. */
  readonly dials: readonly string[];
  /**
   * Whether what takes it up is back at the loop's end; `unproven` where it may be. `later`: its step is not, but all
   * outputs that it goes into are.
   */
  readonly state: 'closes' | 'open' | 'unproven' | 'later';
  /**
   * 0..1 at even moments from the loop's start to its end, the end included: how far through its period it is, or the
   * shape it takes. Empty where it differs from pixel to pixel.
   */
  readonly curve: readonly number[];
  /** How its curve looks: the way through a period, its own shape, or steps. */
  readonly lane: 'period' | 'shape' | 'steps';
}

const SAMPLES = 96;

/** How a step as a whole comes round in a loop, with all that moves it. */
export type StepPeriod =
  | { readonly kind: 'still' }
  | { readonly kind: 'laps'; readonly laps: number }
  /** Back after more than one loop, of so many where that can be counted; all outputs that it goes into close. */
  | { readonly kind: 'later'; readonly loops?: number }
  | { readonly kind: 'open' | 'unproven' | 'moving' };

/**
 * Motions once it is known which breaks were seen: those that set one going are open; of steps whose outputs close they
 * come back later.
 */
export function judged(
  movements: readonly Movement[],
  blames: readonly Blame[],
  isOpen: (blame: Blame) => boolean,
  outputsClose: (step: number) => boolean,
): Movement[] {
  const spans = new Set(originsOf(blames.filter(isOpen)).map(({ from, to }) => `${String(from)} ${String(to)}`));
  return movements.map((m) => {
    if (m.state !== 'unproven') return m;
    if (outputsClose(m.step)) return { ...m, state: 'later' };
    return spans.has(`${String(m.from)} ${String(m.to)}`) ? { ...m, state: 'open' } : m;
  });
}

/** What set going the breaks of a loop. */
const originsOf = (blames: readonly Blame[]): Typed[] =>
  blames.filter((b) => b.shift === 'loop').flatMap((b) => b.origins.map((o) => o.typed));

/**
 * All motions of a material's steps, in text order, given where its loop breaks: what a break goes back to is not
 * proven to close.
 */
export function movementsOf(proof: Proof, blames: readonly Blame[]): Movement[] {
  const { graph, program, values } = proof;
  const { seconds } = program.loop;
  const blamed = new Set(originsOf(blames));
  const at = (node: Node, time: number): number =>
    evaluateFrame([node], { time, dials: values.dials }).get(node)?.[0] ?? 0;
  const sampled = (of: (time: number) => number): number[] =>
    Array.from({ length: SAMPLES + 1 }, (_, i) => of((i / SAMPLES) * seconds));
  const found: Movement[] = [];
  const add = (step: Step, typed: Typed): void => {
    const place = {
      step: step.index,
      from: typed.from,
      to: typed.to,
      state: blamed.has(typed) ? 'unproven' : 'closes',
    } as const;
    const node = graph.valueOf.get(typed);
    if (typed.kind === 'built-in') {
      if (typed.name !== 'time' && typed.name !== 'phase' && typed.name !== 'frame') return;
      const laps = typed.name === 'phase' ? 1 : undefined;
      found.push({
        ...place,
        kind: 'time',
        ...(laps ? { laps } : {}),
        dials: [],
        curve: sampled((t) => t / seconds),
        lane: 'period',
      });
      return;
    }
    if (!hasOwnTime(typed)) return;
    const rates = ratesOf(typed).flatMap((r) => graph.valueOf.get(r) ?? []);
    const timeStep = typed.kind === 'call' ? typed.operation.timeStep : undefined;
    const every = timeStep === undefined ? undefined : graph.argumentsOf.get(typed)?.get(timeStep);
    const known = rates.filter((r) => r.frequency !== 'pixel');
    // A rate of nothing is no motion.
    if (rates.length > 0 && rates.every((r) => r.kind === 'constant' && r.payload[0] === 0)) return;
    const laps =
      known.length > 0 && known.length === rates.length
        ? known.map((r) => at(r, 0)).sort((a, b) => Math.abs(b) - Math.abs(a))
        : [];
    // A hold comes round as often as it steps.
    if (every && every.frequency !== 'pixel' && at(every, 0) > 0) laps.push(seconds / at(every, 0));
    const [max] = laps;
    const kind =
      typed.kind === 'call'
        ? typed.operation.name
        : typed.kind === 'expand'
          ? (typed.operation()?.name ?? 'time')
          : 'time';
    const timed = typed.kind === 'call' ? timeUnder(proof, typed) : undefined;
    const own = typed.kind === 'call' && !flowsIn(typed.operation) && node?.frequency === 'frame' ? node : undefined;
    const shape = timed ?? own;
    let curve: number[] = [];
    if (shape && shape.frequency !== 'pixel')
      curve = toUnit(
        sampled((t) => at(shape, t)),
        timed ? seconds : undefined,
      );
    else if (known[0])
      curve = sampled((t) => fraction((at(known.find((k) => at(k, 0) === max) ?? known[0]!, t) * t) / seconds));
    const lane = (typed.kind === 'call' ? typed.operation.lane : undefined) ?? 'period';
    found.push({ ...place, kind, ...(max === undefined ? {} : { laps: max }), dials: dialsOf(typed), curve, lane });
  };
  const visit = (step: Step, typed: Typed): void => {
    for (const part of partsOf(typed))
      if (!(typed.kind === 'call' && typed.off && part !== typed.args.values().next().value)) visit(step, part);
    // What multiplies time is told once, by the product.
    if (typed.kind === 'binary' && hasOwnTime(typed))
      found.splice(
        0,
        found.length,
        ...found.filter((m) => m.kind !== 'time' || m.from < typed.from || m.to > typed.to),
      );
    add(step, typed);
  };
  for (const step of program.steps) if (!step.off) visit(step, step.value);
  return found;
}

const fraction = (v: number): number => {
  const f = v - Math.floor(v);
  return f > 1 - 1e-9 ? 0 : f;
};

/** To 0..1 by what is reached, or by a given whole. */
function toUnit(values: readonly number[], whole: number | undefined): number[] {
  const [low, high] =
    whole === undefined
      ? [Math.min(...values), Math.max(...values)]
      : [Math.min(0, ...values), Math.max(whole, ...values)];
  return values.map((v) => (high - low < 1e-9 ? 0.5 : (v - low) / (high - low)));
}

/** The time that what flows into a call is shown at, where the call changes it. */
function timeUnder({ graph }: Proof, call: Extract<Typed, { kind: 'call' }>): Node | undefined {
  const given = graph.argumentsOf.get(call);
  const { builder } = graph;
  const node =
    given && call.operation.shownTime?.(graph.context, { node: (name) => given.get(name) ?? builder.number(0) });
  return builder.full ? undefined : node;
}

const dialsOf = (typed: Typed): string[] => [
  ...new Set(
    ratesOf(typed).flatMap((rate) => [...within(rate)].flatMap((t) => (t.kind === 'dial' ? [t.dial.name] : []))),
  ),
];

/** Whole periods: what closes otherwise, such as by being even, has a period of its own that is not told. */
const isCounted = (laps: number | undefined): laps is number =>
  laps !== undefined && laps > 0.5 && Math.abs(laps - Math.round(laps)) < 1e-6;

/** Most loops that are counted. */
const LOOPS = 64;

/** After how many loops motions of so many laps each are back together. */
function laterOf(laps: readonly (number | undefined)[]): StepPeriod {
  let loops = fractionOf(1)!;
  for (const each of laps) {
    const whole = each === undefined ? undefined : fractionOf(each);
    if (!whole) return { kind: 'later' };
    loops = loops.lcm(Number(whole.d));
  }
  const count = loops.valueOf();
  return count > 1 && count <= LOOPS ? { kind: 'later', loops: count } : { kind: 'later' };
}

const gcd = (a: number, b: number): number => (b < 1e-9 ? a : gcd(b, a % b));

/**
 * For each step the shortest part of the loop after which all that moves it has come round; `open` where its loop is.
 */
export function periodsOf(
  proof: Proof,
  movements: readonly Movement[],
  verdict: (step: number) => Verdict,
  outputsClose: (step: number) => boolean,
): StepPeriod[] {
  const { program, graph } = proof;
  const laps = new Map<Step, number>();
  const result: StepPeriod[] = [];
  const lapsOf = new Map<number, (number | undefined)[]>();
  for (const m of movements) {
    const own = m.laps === undefined ? undefined : Math.abs(m.laps);
    const known = lapsOf.get(m.step);
    if (known) known.push(own);
    else lapsOf.set(m.step, [own]);
  }
  for (const step of program.steps) {
    const all = [...(lapsOf.get(step.index) ?? [])];
    if (!step.off)
      for (const s of new Set(stepsIn(step.value).map((used) => inForce(used) ?? used)))
        if (laps.has(s)) all.push(laps.get(s));
    // What closes and cannot be counted comes round once.
    if (all.length > 0) laps.set(step, all.map((l) => l ?? 1).reduce(gcd, 0));
    const each = laps.get(step);
    const told = verdict(step.index);
    if (all.length === 0 || graph.steps[step.index]!.frequency === 'constant') result.push({ kind: 'still' });
    else if (told === 'open' || told === 'unproven')
      result.push(outputsClose(step.index) ? laterOf(all) : { kind: told });
    else result.push(isCounted(each) ? { kind: 'laps', laps: Math.round(each) } : { kind: 'moving' });
  }
  return result;
}
