import type { Dial } from '../check/program.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import type { Graph } from '../ir/lower.ts';
import { inOrder, widthOf, type ImageSlot, type IrFunction, type Kind, type Node, type NodeKind } from '../ir/node.ts';
import type { Shift } from '../measure/witness.ts';
import { TAU } from '../ops/shared.ts';

/**
 * How far a value moves under a shift, by component: a scalar node that the shift itself does not change (so that
 * twice the shift moves it twice as far), or undefined where that cannot be told. The constant 0 is no change.
 */
type Change = readonly (Node | undefined)[];

/** Numbers this near a whole one are meant to be whole: headings and rates come through float64. */
const NEAR = 1e-9;
const isWholeNumber = (v: number): boolean => Math.abs(v - Math.round(v)) < NEAR * Math.max(1, Math.abs(v));

/** What may be taken as given of the dials: their values, or only that they lie in their ranges and steps. */
export type Setting = { readonly kind: 'any' } | { readonly kind: 'present'; readonly dials: ReadonlyMap<string, readonly number[]> };

/** A laps dial that moves in whole laps is a whole number at every setting. */
const isWholeDial = ({ type, step, low, value }: Dial): boolean =>
  type === 'laps' && step !== undefined && Number.isInteger(step) && (low === undefined ? value.every(Number.isInteger) : Number.isInteger(low));

/** Follows what three shifts do to the values of a graph: time by one loop, u by 1, v by 1. */
export class Shifts {
  readonly #known = new Map<Node, Change>();
  readonly #wholeDials: ReadonlySet<string>;

  constructor(
    readonly graph: Graph,
    readonly shift: Shift,
    readonly setting: Setting,
  ) {
    this.#wholeDials = new Set(graph.program.dials.filter(isWholeDial).map((d) => `dial ${d.name}`));
  }

  /** Whether a value is proven to be what it was. */
  returns(node: Node): boolean {
    const returns = this.#follow(node, this.#known, undefined).every((c) => c !== undefined && this.#isZero(c));
    // A builder at its limit makes zeros of everything, which would look like no change.
    return returns && !this.graph.builder.full;
  }

  #follow(root: Node, known: Map<Node, Change>, parameters: readonly Change[] | undefined): Change {
    for (const node of inOrder([root])) {
      if (known.has(node)) continue;
      known.set(
        node,
        this.#changeOf(
          node,
          node.args.map((a) => known.get(a) ?? []),
          parameters,
        ),
      );
    }
    return known.get(root) ?? [];
  }

  #isZero(node: Node): boolean {
    if (node.kind === 'constant') return Math.abs(node.payload[0] ?? 0) < NEAR;
    const value = this.#valueOf(node);
    return value !== undefined && Math.abs(value) < NEAR;
  }

  /** Of what is the same at every pixel and moment, in the present setting. */
  #valueOf(node: Node): number | undefined {
    if (node.kind === 'constant') return node.payload[0];
    if (this.setting.kind === 'any' || node.rate === 'pixel' || inOrder([node]).some((n) => n.kind === 'frame' && n.payload === 'time')) return undefined;
    return evaluateFrame([node], { time: 0, dials: this.setting.dials }).get(node)?.[0];
  }

  #isWhole(node: Node): boolean {
    const value = this.#valueOf(node);
    if (value !== undefined) return isWholeNumber(value);
    switch (node.kind) {
      case 'frame':
        return this.#wholeDials.has(node.payload);
      case 'neg':
      case 'abs':
        return this.#isWhole(node.args[0]!);
      case 'add':
      case 'sub':
      case 'mul':
      case 'max':
      case 'min':
        return node.args.every((a) => this.#isWhole(a));
      case 'floor':
      case 'ceil':
        return true;
      case 'select':
        return node.args.slice(1).every((a) => this.#isWhole(a));
      default:
        return false;
    }
  }

  /** Whether a change is a whole number of periods. */
  #isMultiple(change: Node, period: Node): boolean {
    const [c, p] = [this.#valueOf(change), this.#valueOf(period)];
    if (c !== undefined && Math.abs(c) < NEAR) return true;
    if (c !== undefined && p !== undefined) return p !== 0 && Math.abs(c - Math.round(c / p) * p) < NEAR * Math.max(1, Math.abs(c));
    if (change === period) return true;
    if (p === 1) return this.#isWhole(change);
    if (change.kind === 'mul') {
      const [x, y] = change.args as [Node, Node];
      if ((this.#isMultiple(x, period) && this.#isWhole(y)) || (this.#isMultiple(y, period) && this.#isWhole(x))) return true;
    }
    // The period of an evolving noise: twice its laps where they are whole, and never 0.
    if (period.kind === 'select') {
      const [condition, then] = period.args as [Node, Node];
      const rate = condition.kind === 'eq' && condition.args[0]?.kind === 'fract' ? condition.args[0].args[0] : undefined;
      const b = this.graph.builder;
      return rate !== undefined && this.#isWhole(rate) && change === b.mul(rate, 2) && then === b.max(b.mul(b.abs(rate), 2), 1);
    }
    return false;
  }

  #constant(value: number): Node {
    return this.graph.builder.number(value);
  }

  #changeOf(node: Node, args: readonly Change[], parameters: readonly Change[] | undefined): Change {
    const width = widthOf(node.type);
    const still = (): Change => Array.from({ length: width }, () => this.#constant(0));
    switch (node.kind) {
      case 'constant':
        return still();
      case 'frame':
        return node.payload === 'time' && this.shift === 'loop' ? [this.#constant(this.graph.program.loop.seconds)] : still();
      case 'input':
        return this.#inputChange(node) ?? still();
      case 'parameter':
        return parameters?.[node.payload] ?? Array.from({ length: width }, () => undefined);
      case 'call':
        // Each use of a function is followed on its own: what it is given moves by its own way.
        return this.#callChange(node.payload, args, width);
      default:
    }
    if (args.every((change) => change.every((c) => c !== undefined && this.#isZero(c)))) return still();
    const at = (change: Change | undefined, i: number): Node | undefined => (change?.length === 1 ? change[0] : change?.[i]);
    const per = (rule: (i: number) => Node | undefined): Change => Array.from({ length: width }, (_, i) => rule(i));
    if (node.kind === 'vec') return args.flat();
    if (node.kind === 'pick') return node.payload.map((i) => args[0]?.[i]);
    if (node.kind === 'read') {
      const absorbed = [0, 1].every((i) => {
        const c = at(args[0], i);
        return c !== undefined && this.#isAbsorbed(node.payload, c);
      });
      return absorbed &&
        args
          .slice(1)
          .flat()
          .every((c) => c !== undefined && this.#isZero(c))
        ? still()
        : per(() => undefined);
    }
    // Next pixels move as far as this one, if all move alike.
    if (node.kind === 'slope') return args[0]!.every((c) => c !== undefined && c.rate !== 'pixel') ? still() : per(() => undefined);
    return per((i) => {
      const given = args.map((change) => at(change, i));
      return given.includes(undefined) ? undefined : this.#component(node, given as Node[], i);
    });
  }

  #isAbsorbed({ wrap }: ImageSlot, change: Node): boolean {
    if (this.#isZero(change)) return true;
    return wrap === 'repeat' ? this.#isWhole(change) : wrap === 'mirror' && this.#isMultiple(change, this.#constant(2));
  }

  /** The same component of an operand, where operands of width 1 stand beside wider ones. */
  #operand(node: Node, index: number, i: number): Node {
    const arg = node.args[index]!;
    return widthOf(arg.type) === 1 ? arg : this.graph.builder.pick(arg, i);
  }

  /** The change of one component, from those of its operands: all known, not all zero. */
  #component(node: Node, c: readonly Node[], i: number): Node | undefined {
    const b = this.graph.builder;
    const [x, y, z] = c as [Node, Node, Node];
    const zero = (n: Node): boolean => this.#isZero(n);
    const kind: Kind = node.kind;
    switch (kind) {
      case 'neg':
        return b.neg(x);
      case 'add':
        return b.add(x, y);
      case 'sub':
        return b.sub(x, y);
      case 'mul':
        return zero(y) ? b.mul(x, this.#operand(node, 1, i)) : zero(x) ? b.mul(this.#operand(node, 0, i), y) : undefined;
      case 'div':
        return zero(y) ? b.div(x, this.#operand(node, 1, i)) : undefined;
      case 'mix':
        return zero(z) ? b.mix(x, y, this.#operand(node, 2, i)) : undefined;
      case 'select':
        return zero(x) ? b.select(this.#operand(node, 0, i), y, z) : undefined;
      case 'fract':
        return this.#isWhole(x) ? this.#constant(0) : undefined;
      case 'floor':
      case 'ceil':
        return this.#isWhole(x) ? x : undefined;
      case 'mod':
        return zero(y) && this.#isMultiple(x, this.#operand(node, 1, i)) ? this.#constant(0) : undefined;
      case 'sin':
      case 'cos':
        return this.#isTurns(x) ? this.#constant(0) : undefined;
      default:
        return undefined;
    }
  }

  /** Radians that are whole turns. */
  #isTurns(change: Node): boolean {
    const value = this.#valueOf(change);
    if (value !== undefined) return isWholeNumber(value / TAU);
    if (change.kind !== 'mul') return false;
    const [x, y] = change.args as [Node, Node];
    const isTau = (n: Node): boolean => n.kind === 'constant' && n.payload[0] === TAU;
    return (isTau(y) && this.#isWhole(x)) || (isTau(x) && this.#isWhole(y));
  }

  #inputChange(node: NodeKind<'input'>): Change | undefined {
    if (this.shift === 'loop') return undefined;
    const [du, dv] = this.shift === 'tile_u' ? [1, 0] : [0, 1];
    switch (node.payload) {
      case 'uv':
      case 'uv2':
      case 'screen':
        return [du, dv].map((v) => this.#constant(v));
      case 'position':
      case 'world':
        return [du, -dv, 0].map((v) => this.#constant(v));
      default:
        return undefined;
    }
  }

  #callChange(fn: IrFunction, args: readonly Change[], width: number): Change {
    const change = this.#follow(fn.result, new Map(), args);
    // What moves by its parameters inside means nothing outside.
    return change.length === width
      ? change.map((c) => (c !== undefined && this.#isZero(c) ? this.#constant(0) : undefined))
      : Array.from({ length: width }, () => undefined);
  }
}
