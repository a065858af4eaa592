import type { Step, Typed } from '../check/program.ts';
import { inForce, partsOf, stepsIn } from '../check/walk.ts';
import type { Node } from '../ir/node.ts';
import type { Shift } from '../measure/subject.ts';
import { fractionIn, isZero } from './exact.ts';
import type { Break, Shifts } from './shifts.ts';

/** Something in a step's line: a call, a product, a value of time. */
export interface Site {
  readonly step: Step;
  readonly typed: Typed;
}

/** Where a value is lost track of under a shift, and what set it moving. */
export interface Blame extends Site {
  readonly shift: Shift;
  /** What could not take up how far: unknown where a value simply grows. */
  readonly broken: Break | undefined;
  /** The motions, or for a tile the stretches, that lead to it. */
  readonly origins: readonly Site[];
  /** The steps between them, from the break to the origin. */
  readonly path: readonly Step[];
}

type State = 'returns' | 'moves' | 'lost' | 'none';

/** Follows the typed expressions of a material to where a shift breaks them. */
export class Tracer {
  constructor(readonly shifts: Shifts) {}

  #node(typed: Typed): Node | undefined {
    return this.shifts.graph.valueOf.get(typed);
  }

  #state(typed: Typed): State {
    const node = this.#node(typed);
    if (!node) return 'none';
    const change = this.shifts.changeOf(node);
    if (change.includes(undefined)) return 'lost';
    return change.every((c) => c && isZero(c)) ? 'returns' : 'moves';
  }

  /** Every place where a value of these steps is lost, in text order; and outputs that grow without end. */
  blames(steps: readonly Step[]): Blame[] {
    return steps.flatMap((step) => {
      if (step.off) return [];
      const found: Typed[] = [];
      if (this.#state(step.value) === 'lost') this.#lost(step.value, found);
      else if (step.kind === 'out' && this.#state(step.value) === 'moves') found.push(step.value);
      return found.map((typed) => this.#blame(step, typed));
    });
  }

  /** The innermost expressions that lose track though nothing in them has; other steps are blamed on their own. */
  #lost(typed: Typed, found: Typed[]): void {
    if (typed.kind === 'step') return;
    const parts = partsOf(typed).filter((p) => this.#state(p) === 'lost');
    // An operation off, or a time of its own, has its parts but not their troubles.
    if (parts.length === 0) found.push(typed);
    for (const part of parts) this.#lost(part, found);
  }

  #blame(step: Step, typed: Typed): Blame {
    const origins: Site[] = [];
    const path = new Set<Step>();
    const moving = partsOf(typed).filter((p) => this.#state(p) === 'moves');
    if (moving.length === 0 || (this.shifts.shift === 'loop' && this.#moves(typed))) origins.push({ step, typed });
    for (const part of moving) this.#origins({ step, typed: part }, origins, path);
    const node = this.#node(typed);
    return { step, typed, shift: this.shifts.shift, broken: node && this.#breakIn(node), origins, path: [...path] };
  }

  /** Whether it has a motion of its own, other than one at a rate of 0. */
  #moves(typed: Typed): boolean {
    if (this.shifts.shift !== 'loop' || !hasOwnTime(typed)) return false;
    const rates = ratesOf(typed).map((r) => this.#node(r));
    return rates.length === 0 || rates.some((r) => r?.kind !== 'constant' || r.payload[0] !== 0);
  }

  /** The break of a node, or of what it is made of: lowering makes several nodes of one expression. */
  #breakIn(node: Node): Break | undefined {
    const seen = new Set<Node>();
    const queue = [node];
    for (let at = queue.shift(); at; at = queue.shift()) {
      const broken = this.shifts.breakAt(at);
      if (broken) return broken;
      for (const arg of at.args) {
        if (seen.has(arg) || !this.shifts.changeOf(arg).includes(undefined)) continue;
        seen.add(arg);
        queue.push(arg);
      }
    }
    return undefined;
  }

  /** What set a moving value going: calls that move or stretch it, products, or time and place themselves. */
  #origins(site: Site, origins: Site[], path: Set<Step>): void {
    // No recursion: materials may be thousands of steps deep.
    const waiting = [site];
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      const { step, typed } = at;
      if (typed.kind === 'step') {
        const from = inForce(typed.step);
        if (!from || path.has(from)) continue;
        path.add(from);
        waiting.push({ step: from, typed: from.value });
        continue;
      }
      const moving = partsOf(typed).filter((p) => this.#state(p) === 'moves');
      const stretches =
        this.shifts.shift !== 'loop' &&
        (typed.kind === 'call' || (typed.kind === 'binary' && (typed.operator === '*' || typed.operator === '/')));
      if (moving.length === 0 || stretches || this.#moves(typed)) origins.push({ step, typed });
      for (const part of [...moving].reverse()) waiting.push({ step, typed: part });
    }
  }
}

/** The rates that a call or product moves by. */
export function ratesOf(typed: Typed): readonly Typed[] {
  if (typed.kind === 'binary') return typed.type === 'number' ? partsOf(typed).filter((p) => p.type === 'rate') : [];
  return typed.kind === 'call' || typed.kind === 'expand' ? partsOf(typed).filter((p) => p.type === 'rate') : [];
}

/** A call that moves by a rate or changes the time of what flows, or a rate times time. */
export const hasOwnTime = (typed: Typed): boolean =>
  (typed.kind === 'call' && !typed.off && typed.operation.shownTime !== undefined) ||
  (ratesOf(typed).length > 0 && !(typed.kind === 'call' && typed.off));

/** The steps that an output or step is made of, itself included. */
export function reached(roots: readonly Step[]): ReadonlySet<Step> {
  const found = new Set<Step>();
  // No recursion: materials may be thousands of steps deep.
  const waiting = [...roots];
  for (let step = waiting.pop(); step; step = waiting.pop()) {
    if (found.has(step)) continue;
    found.add(step);
    if (step.off && step.before) waiting.push(step.before);
    if (!step.off) stepsIn(step.value, waiting);
  }
  return found;
}

const figure = (v: number): string => String(Number(v.toPrecision(4)));

/** How far a break's values move, in words: "1.8", "0.5 and 0.866"; undefined where it is no plain number. */
export function distanceOf({ moved }: Break): string | undefined {
  const parts = moved.map((m) => fractionIn(m)?.valueOf());
  if (parts.length === 0 || parts.includes(undefined)) return undefined;
  return [...new Set((parts as number[]).map((p) => figure(Math.abs(p))))].join(' and ');
}
