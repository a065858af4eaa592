import type { Program, Step, Typed } from '../check/program.ts';
import { check } from '../check/check.ts';
import { expressionsOf } from '../check/walk.ts';
import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { lower, type Graph } from '../lower/lower.ts';
import type { Node } from '../ir/node.ts';
import { parse } from '../lang/parse.ts';
import { rampText } from '../edits/ramp-edits.ts';
import { hexOfColor, type RampTable } from '../ops/value-type.ts';
import { Reference } from '../backends/reference/evaluate.ts';

type Call = Extract<Typed, { kind: 'call' }>;

/** A `dissolve` or `reveal` of a material, and what it was given. */
export interface Dissolve {
  readonly kind: 'dissolve' | 'reveal';
  readonly step: Step;
  readonly call: Call;
  readonly mask: Typed;
  readonly ramp: RampTable | undefined;
}

/** All of them outside operations of one's own, in text order; those that are off are left out. */
export function dissolvesOf(program: Program): Dissolve[] {
  const found: Dissolve[] = [];
  for (const { typed, step } of expressionsOf(program)) {
    if (typed.kind !== 'call' || typed.off || !step || !program.steps.includes(step)) continue;
    const { name } = typed.operation;
    const mask = typed.args.get('mask');
    if ((name !== 'dissolve' && name !== 'reveal') || !mask) continue;
    const ramp = typed.args.get('ramp');
    found.push({ kind: name, step, call: typed, mask, ramp: ramp?.kind === 'ramp' ? ramp.ramp : undefined });
  }
  return found;
}

/** The graphs of a dissolve's mask and settings. `soft` of a reveal is its edge. */
export function dissolveNodes(
  graph: Graph,
  { call }: Dissolve,
): Readonly<Record<'mask' | 'progress' | 'edge' | 'core', Node | undefined>> {
  const args = graph.argumentsOf.get(call);
  return {
    mask: args?.get('mask'),
    progress: args?.get('progress'),
    edge: args?.get('edge') ?? args?.get('soft'),
    core: args?.get('core'),
  };
}

/** What a dissolve does to each mask value, 0..1 in even steps. */
export interface DissolveCurves {
  readonly mask: readonly number[];
  /** How far the front has passed: 0 not yet, 1 quite. */
  readonly age: readonly number[];
  /** How much of the base shows. */
  readonly share: readonly number[];
  /** The ramp's colour there, linear, straight alpha; clear for a reveal. */
  readonly color: readonly (readonly number[])[];
}

/**
 * The curves at one moment. They are read off the operations themselves, evaluated over a row of mask values, so that
 * they cannot say anything else than the Stage shows. `samples` at least 2.
 */
export function dissolveCurves(
  ramp: RampTable | undefined,
  settings: { readonly progress: number; readonly edge: number; readonly core: number },
  samples = 129,
): DissolveCurves {
  const line = ramp
    ? rampText(
        ramp.stops.map((s) => ({ at: s.at, hex: hexOfColor(s.color) })),
        ramp.easing,
      )
    : '0% #00000000, 100% #00000000';
  const written = (value: number): string => (Number.isFinite(value) ? value : 0).toFixed(9);
  const { progress, edge, core } = settings;
  const rest = `uv.x, ${written(progress)}, edge: ${written(edge)}, ramp: front, core: ${written(core)}`;
  const graph = lower(
    check(
      parse(
        [
          `ramp front = ${line}`,
          `age = uv.x |> reveal(${written(progress)}, ${written(edge)})`,
          `whole = #ffffff |> dissolve(${rest})`,
          `bare = #ffffff00 |> dissolve(${rest})`,
          'tint = age |> ramp(front)',
        ].join('\n'),
      ),
    ),
  );
  const reference = new Reference(graph.steps);
  reference.setFrame({ time: 0, dials: new Map() });
  const mask = Array.from({ length: samples }, (_, i) => i / (samples - 1));
  const rows = mask.map((x) => reference.pixel({ uv: [x, 0] }));
  return {
    mask,
    age: rows.map((r) => r[0]![0]!),
    // A solid base adds its own share to the alpha that the front has alone.
    share: rows.map((r) => (ramp ? r[1]![3]! - r[2]![3]! : r[0]![0]!)),
    color: rows.map((r) => r[3]!),
  };
}

/**
 * Shares of the surface, from a histogram of the mask over 0..1: not reached yet, passing, passed. They add up to 1.
 */
export function dissolveShares(
  counts: ArrayLike<number>,
  { progress, edge }: { readonly progress: number; readonly edge: number },
): { readonly hidden: number; readonly burning: number; readonly shown: number } {
  const bins = counts.length;
  // age is 0 from mask = progress * (1 + edge) on, and 1 up to edge below it.
  const front = progress * (1 + edge);
  let [hidden, shown, total] = [0, 0, 0];
  for (let i = 0; i < bins; i++) {
    const mask = (i + 0.5) / bins;
    total += counts[i]!;
    if (mask >= front) hidden += counts[i]!;
    else if (mask <= front - edge) shown += counts[i]!;
  }
  if (total === 0) return { hidden: 0, burning: 0, shown: 0 };
  return { hidden: hidden / total, burning: 1 - (hidden + shown) / total, shown: shown / total };
}

/** Turns a mask round: puts `|> invert()` behind it, or takes it away where it stands there. */
export function invertMask(text: string, mask: Typed): TextEdit[] {
  if (mask.kind === 'call' && mask.operation.name === 'invert' && !mask.off) {
    const flowing = [...mask.args.values()][0];
    if (flowing && flowing.to < mask.to && /^\s*\|>/.test(text.slice(flowing.to)))
      return [{ from: flowing.to, to: mask.to, insert: '' }];
  }
  return piped(text, mask, 'invert()');
}

/**
 * Spreads mask values from `low..high` over 0..1: puts a remap behind the mask, or changes the one that stands there.
 */
export function levelMask(text: string, mask: Typed, low: number, high: number): TextEdit[] {
  const number = (value: number): string => String(Math.round(value * 1000) / 1000);
  const level = `remap(${number(low)}, ${number(high)}, 0, 1) |> clamp(0, 1)`;
  const before = levelOf(text, mask);
  return before ? [{ from: before.from, to: before.to, insert: level }] : piped(text, mask, level);
}

const LEVEL = /remap\(\s*([-\d.]+)\s*,\s*([-\d.]+)\s*,\s*0\s*,\s*1\s*\)\s*\|>\s*clamp\(\s*0\s*,\s*1\s*\)$/;

/** The levels that stand behind a mask, as `levelMask` writes them, and where. */
export function levelOf(
  text: string,
  mask: Typed,
): { readonly low: number; readonly high: number; readonly from: number; readonly to: number } | undefined {
  const found = LEVEL.exec(text.slice(mask.from, mask.to));
  return found
    ? { low: Number(found[1]), high: Number(found[2]), from: mask.from + found.index, to: mask.to }
    : undefined;
}

/**
 * A mask that flows into a call is followed by one more stage; one that is an argument takes brackets where it is not a
 * pipe or a name.
 */
function piped(text: string, mask: Typed, stage: string): TextEdit[] {
  const written = text.slice(mask.from, mask.to);
  const plain =
    mask.kind === 'call' ||
    mask.kind === 'step' ||
    mask.kind === 'swizzle' ||
    mask.kind === 'dial' ||
    written.startsWith('(');
  if (plain) return [{ from: mask.to, to: mask.to, insert: ` |> ${stage}` }];
  return [
    { from: mask.from, to: mask.from, insert: '(' },
    { from: mask.to, to: mask.to, insert: `) |> ${stage}` },
  ];
}
