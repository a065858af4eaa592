import type { Program, Step, Typed } from '../check/program.ts';
import { expressionsOf } from '../check/walk.ts';
import { Reference } from '../backends/reference/evaluate.ts';
import { Builder } from '../ir/builder.ts';
import type { Node } from '../ir/node.ts';
import type { Graph } from '../lower/lower.ts';
import { rampAt } from '../ops/colour.ts';
import { dissolveAge, dissolved } from '../ops/layers.ts';
import type { RampTable } from '../ops/value-type.ts';

type Call = Extract<Typed, { kind: 'call' }>;

/** A dissolve of a material, and what it was given. */
export interface Dissolve {
  /** The operation's name. */
  readonly name: string;
  /** Whether the front has colours of its own. */
  readonly hasFront: boolean;
  readonly step: Step;
  readonly call: Call;
  readonly mask: Typed;
  readonly ramp: RampTable | undefined;
}

/** All of them outside operations of one's own, in text order; those that are off are left out. */
export function dissolvesOf(program: Program): Dissolve[] {
  const found: Dissolve[] = [];
  for (const { typed, step } of expressionsOf(program)) {
    if (typed.kind !== 'call' || typed.off || !step) continue;
    const { dissolves, name } = typed.operation;
    const mask = dissolves && typed.args.get(dissolves.mask);
    if (!mask || !program.steps.includes(step)) continue;
    const ramp = dissolves.ramp === undefined ? undefined : typed.args.get(dissolves.ramp);
    found.push({
      name,
      hasFront: dissolves.ramp !== undefined,
      step,
      call: typed,
      mask,
      ramp: ramp?.kind === 'ramp' ? ramp.ramp : undefined,
    });
  }
  return found;
}

/** The graphs of a dissolve's mask and settings. */
export function dissolveNodes(
  graph: Graph,
  { call }: Dissolve,
): Readonly<Record<'mask' | 'progress' | 'edge' | 'core', Node | undefined>> {
  const args = graph.argumentsOf.get(call);
  const facts = call.operation.dissolves;
  const node = (name: string | undefined): Node | undefined => (name === undefined ? undefined : args?.get(name));
  return {
    mask: node(facts?.mask),
    progress: node(facts?.progress),
    edge: node(facts?.edge),
    core: node(facts?.core),
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
  const b = new Builder();
  const [mask, clear] = [b.x(b.input('uv')), b.constant('f4', [0, 0, 0, 0])];
  const age = dissolveAge(b, mask, b.number(settings.progress), b.number(settings.edge));
  const over = (base: Node): Node => dissolved(b, base, age, b.number(settings.core), ramp);
  const roots = ramp
    ? [age, b.w(over(b.constant('f4', [1, 1, 1, 1]))), b.w(over(b.constant('f4', [1, 1, 1, 0]))), rampAt(b, ramp, age)]
    : [age, age, b.number(0), clear];
  const reference = new Reference(roots);
  reference.setFrame({ time: 0, dials: new Map() });
  const masks = Array.from({ length: samples }, (_, i) => i / (samples - 1));
  const rows = masks.map((x) => reference.pixel({ uv: [x, 0] }));
  return {
    mask: masks,
    age: rows.map((r) => r[0]![0]!),
    // A solid base adds its own share to the alpha that the front has alone.
    share: rows.map((r) => r[1]![0]! - r[2]![0]!),
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
