import type { Dial, Variant } from '../check/program.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import type { Graph } from '../lower/lower.ts';
import { inOrder, widthOf, type ImageSlot, type IrFunction, type Node, type NodeKind } from '../ir/node.ts';
import { DISPLACEMENTS, type Shift } from '../measure/subject.ts';
import { MOVES, type Moving } from './moves.ts';
import { Congruences } from './congruence.ts';
import { mirrorOf, PARITIES, Reflections, type Mirror } from './parity.ts';
import { Signs } from './signs.ts';
import {
  atom,
  exactOf,
  isWhole,
  isZero,
  negated,
  printed,
  product,
  quotient,
  sum,
  whole,
  ZERO,
  type Exact,
} from './exact.ts';

/**
 * How far a value moves under a shift, by component; undefined where that cannot be told. It is what the shift itself
 * leaves alone, so that twice the shift moves it twice as far.
 */
export type Change = readonly (Exact | undefined)[];

/** The dials whose values are given, in internal units; of the others only their ranges and steps are. */
export type Setting = ReadonlyMap<string, readonly number[]>;

/**
 * Where a known change met what cannot take it up: how far it moves, and the period that whole numbers of would have
 * been taken up.
 */
export interface Break {
  readonly moved: readonly Exact[];
  readonly period: Exact | undefined;
  /** `clamp`: an image that ends at its edge; `shape`: something that has no period at all. */
  readonly by: 'period' | 'clamp' | 'shape';
}

/**
 * Whether a dial is a whole number at every setting: it moves in whole steps from a whole number, and variants agree.
 */
const isWholeDial = ({ type, step, low, name, value }: Dial, variants: readonly Variant[]): boolean =>
  (type === 'laps' || type === 'number') &&
  step !== undefined &&
  Number.isInteger(step) &&
  (low === undefined || Number.isInteger(low)) &&
  [value, ...variants.flatMap((v) => v.values.get(name) ?? [])].flat().every(Number.isInteger);

/** The changes of what does not change, one for each width. */
const STILLS: readonly Change[] = [1, 2, 3, 4].map((width) => Array.from({ length: width }, () => ZERO));
const STILL: ReadonlySet<Change> = new Set(STILLS);
const stillOf = (node: Node): Change => STILLS[widthOf(node.type) - 1]!;

const ONE = whole(1);
const TWO = whole(2);

/** Follows what one of the three shifts does to the values of a graph: time by one loop, u by 1, or v by 1. */
export class Shifts {
  readonly #known = new Map<Node, Change>();
  readonly #followed = new Set<Node>();
  readonly #calls = new Map<string, { readonly change: Change; readonly broken: Break | undefined }>();
  readonly #broken = new Map<Node, Break>();
  readonly #exact = new Map<Node, Exact>();
  readonly #given = new Map<Node, boolean>();
  readonly #lookedGiven = new Set<Node>();
  readonly #wholeDials: ReadonlySet<string>;
  /** Of values whose changes are not known. */
  readonly #reflections = new Reflections((node, index, i) => this.#exactly(this.#operand(node, index, i)));
  readonly #congruences = new Congruences({
    exactly: (node) => this.#exactly(node),
    isWhole: (x) => this.isWhole(x),
    change: (node) => this.#known.get(node)?.[0],
    negates: (node) => {
      const about = this.#reflections.of(node, 0);
      return about !== undefined && isZero(about);
    },
  });
  readonly #signs: Signs;

  constructor(
    readonly graph: Graph,
    readonly shift: Shift,
    readonly setting: Setting,
    /** How many loops go by, where it is time that goes on. */
    readonly loops = 1,
  ) {
    const { dials, variants } = graph.program;
    this.#signs = new Signs(dials, setting);
    const open = graph.program.switches.filter(({ name }) => !graph.switches.has(name));
    this.#wholeDials = new Set([...dials.filter((d) => isWholeDial(d, variants)), ...open].map((d) => d.name));
  }

  /** Whether a value is proven to be what it was. */
  returns(node: Node): boolean {
    // A builder at its limit makes zeros of everything, which would look like no change.
    return !this.graph.builder.full && this.changeOf(node).every((c) => c !== undefined && isZero(c));
  }

  changeOf(node: Node): Change {
    return this.#known.get(node) ?? this.#follow(node, this.#known, this.#broken, undefined, this.#followed);
  }

  /** Why the change of a node is not known, if that is so though those of its operands are. */
  breakAt(node: Node): Break | undefined {
    return this.#broken.get(node);
  }

  #follow(
    root: Node,
    known: Map<Node, Change>,
    breaks: Map<Node, Break>,
    parameters: readonly Change[] | undefined,
    done?: Set<Node>,
  ): Change {
    for (const node of inOrder([root], done)) {
      // Most values have nothing to do with the shift: those are told at once.
      const still = node.args.length > 0 && node.args.every((a) => STILL.has(known.get(a)!));
      known.set(
        node,
        still
          ? stillOf(node)
          : this.#changeOf(
              node,
              node.args.map((a) => known.get(a) ?? []),
              breaks,
              parameters,
            ),
      );
    }
    return known.get(root) ?? [];
  }

  /** Whether a value follows from the given dials alone. */
  #isGiven(node: Node): boolean {
    for (const n of inOrder([node], this.#lookedGiven)) {
      const own = n.kind !== 'uniform' || (n.payload !== 'time' && this.setting.has(n.payload.dial));
      this.#given.set(n, n.frequency !== 'pixel' && own && n.args.every((a) => this.#given.get(a)));
    }
    return this.#given.get(node)!;
  }

  /** A value that this shift leaves alone, as a sum of products; what is no sum stands for itself. */
  #exactly(node: Node): Exact {
    let known = this.#exact.get(node);
    if (!known) this.#exact.set(node, (known = this.#read(node) ?? atom(node)));
    return known;
  }

  #read(node: Node): Exact | undefined {
    if (widthOf(node.type) !== 1) return undefined;
    if (node.kind === 'constant') return exactOf(node.payload[0] ?? 0);
    if (node.frequency === 'frame' && this.#isGiven(node)) {
      const value = evaluateFrame([node], { time: 0, dials: this.setting }).get(node)?.[0];
      return value === undefined ? undefined : exactOf(value);
    }
    const at = (i: number): Exact => this.#exactly(node.args[i]!);
    switch (node.kind) {
      case 'neg':
        return negated(at(0));
      case 'add':
        return sum(at(0), at(1));
      case 'sub':
        return sum(at(0), negated(at(1)));
      case 'mul':
        return product(at(0), at(1));
      case 'mix': {
        const span = sum(at(1), negated(at(0)));
        const part = span && product(span, at(2));
        return part && sum(at(0), part);
      }
      default:
        return undefined;
    }
  }

  readonly #isWholeAtom = (node: Node): boolean => {
    switch (node.kind) {
      case 'uniform':
        return node.payload !== 'time' && this.#wholeDials.has(node.payload.dial);
      case 'abs':
      case 'max':
      case 'min':
        return node.args.every((a) => this.isWhole(this.#exactly(a)));
      case 'select':
        return node.args.slice(1).every((a) => this.isWhole(this.#exactly(a)));
      case 'floor':
      case 'ceil':
        return true;
      default:
        return false;
    }
  };

  isWhole(x: Exact): boolean {
    return isWhole(x, this.#isWholeAtom);
  }

  /** Whether a change is a whole number of what an operand is worth. */
  #isMultiple(change: Exact, period: Exact): boolean {
    if (isZero(change)) return true;
    const ratio = quotient(change, period);
    return ratio !== undefined && this.isWhole(ratio);
  }

  /** Whether a change of what flows into a `mod` is a whole number of its periods, by its maker's word too. */
  #isTakenUpBy(mod: NodeKind<'mod'>, change: Exact, period: Node): boolean {
    if (this.#isMultiple(change, this.#exactly(period))) return true;
    const n = mod.payload && this.#exactly(mod.args[2]!);
    if (!mod.payload || !n || !this.isWhole(n)) return false;
    const known = product(n, whole(mod.payload.times));
    return known !== undefined && this.#isMultiple(change, known);
  }

  #changeOf(
    node: Node,
    args: readonly Change[],
    breaks: Map<Node, Break>,
    parameters: readonly Change[] | undefined,
  ): Change {
    const width = widthOf(node.type);
    const all = (c: Exact | undefined): Change => Array.from({ length: width }, () => c);
    const broken = (by: Break['by'], changes: readonly Change[], period?: Exact): Exact | undefined => {
      const moved = changes.flat().filter((c): c is Exact => c !== undefined && !isZero(c));
      if (!breaks.has(node)) breaks.set(node, { moved, period, by });
      return undefined;
    };
    switch (node.kind) {
      case 'constant':
        return stillOf(node);
      case 'uniform':
        return node.payload === 'time' && this.shift === 'loop'
          ? all(exactOf(this.graph.program.loop.seconds * this.loops))
          : stillOf(node);
      case 'input':
        return this.#inputChange(node) ?? stillOf(node);
      case 'parameter':
        return parameters?.[node.payload] ?? all(undefined);
      default:
    }
    if (args.every((change) => change.every((c) => c !== undefined && isZero(c)))) return stillOf(node);
    if (node.kind === 'call') {
      // Each use of a function is followed on its own: what it is given moves by its own way.
      const { change, broken: inside } = this.#callChange(node.payload, args, width);
      if (inside && args.every((c) => !c.includes(undefined))) breaks.set(node, inside);
      return change;
    }
    const at = (change: Change | undefined, i: number): Exact | undefined =>
      change?.length === 1 ? change[0] : change?.[i];
    if (node.kind === 'vec') {
      const parts = node.args.flatMap((arg, a) => args[a]!.map((_, i) => [arg, i] as const));
      return this.#kept(node, args.flat(), parameters, (c) => this.#reflections.of(...parts[c]!));
    }
    if (node.kind === 'swizzle') {
      const [of] = node.args as readonly [Node];
      const changes = node.payload.map((i) => args[0]?.[i]);
      return this.#kept(node, changes, parameters, (c) => this.#reflections.of(of, node.payload[c]!));
    }
    if (node.kind === 'sample') {
      if (args.some((c) => c.includes(undefined))) return all(undefined);
      const place = args[0] ?? [];
      if (
        place.every((c) => c !== undefined && this.#isTakenUp(node.payload, c)) &&
        args.slice(1).every((c) => c.every((x) => x && isZero(x)))
      )
        return stillOf(node);
      const { wrap } = node.payload;
      return all(broken(wrap === 'clamp' ? 'clamp' : 'period', [place], wrap === 'mirror' ? TWO : ONE));
    }
    if (node.kind === 'dot') {
      const parts = Array.from({ length: widthOf(node.args[0]!.type) }, (_, i) => i);
      if (args.some((change) => change.includes(undefined))) {
        return this.#kept(node, all(undefined), parameters, () => {
          const products = parts.map((i) => PARITIES.mul(this.#reflections.parities(node, args, i)));
          return products.every((x) => x === products[0]) ? mirrorOf(products[0]) : undefined;
        });
      }
      const moved = parts.reduce<Exact | undefined>((total, i) => {
        const changes = args.map((change) => at(change, i)) as [Exact, Exact];
        const term = MOVES.mul(this.#moving(node, i), [...changes, ZERO]);
        return total && term && sum(total, term);
      }, ZERO);
      return all(moved ?? broken('shape', args));
    }
    // Next pixels move as far as this one, if all move alike.
    if (node.kind === 'derivative')
      return args[0]!.every((c) => c && [...c.values()].every((t) => t.atoms.every((a) => a.frequency !== 'pixel')))
        ? stillOf(node)
        : all(broken('shape', args));
    const isAngular = node.kind === 'sin' || node.kind === 'cos';
    const changes = Array.from({ length: width }, (_, i) => {
      const given = args.map((change) => at(change, i));
      if (given.includes(undefined)) return undefined;
      const change = this.#component(node, given as Exact[], i);
      if (change) return change;
      const period =
        node.kind === 'fract' ? ONE : node.kind === 'mod' ? this.#exactly(this.#operand(node, 1, i)) : undefined;
      return broken(period || isAngular ? 'period' : 'shape', [given], period);
    });
    return this.#kept(node, changes, parameters, (i) =>
      isAngular && this.#congruences.isHalfTurn(this.#operand(node, 0, i))
        ? ZERO
        : this.#reflections.made(node, args, i),
    );
  }

  /** Changes with what `mirror` tells of components whose own is not known: what returns has none, the rest is kept in mind. */
  #kept(node: Node, changes: Change, parameters: unknown, mirror: (i: number) => Mirror): Change {
    // Within a function a node stands for several calls.
    if (parameters !== undefined || !changes.includes(undefined)) return changes;
    const mirrors = changes.map((change, i) => (change ? undefined : mirror(i)));
    this.#reflections.keep(node, mirrors);
    if (changes.length === 1) this.#congruences.note(node);
    return changes.map((change, i) => change ?? (mirrors[i] === 'returns' ? ZERO : undefined));
  }

  #isTakenUp({ wrap }: ImageSlot, change: Exact): boolean {
    if (isZero(change)) return true;
    const ratio = wrap === 'mirror' ? quotient(change, TWO) : change;
    return wrap !== 'clamp' && ratio !== undefined && this.isWhole(ratio);
  }

  /** The same component of an operand, where operands of width 1 stand beside wider ones. */
  #operand(node: Node, index: number, i: number): Node {
    const arg = node.args[index]!;
    return widthOf(arg.type) === 1 ? arg : this.graph.builder.swizzle(arg, i);
  }

  /** The change of one component, from those of its operands: all known, not all zero. */
  #component(node: Node, c: readonly Exact[], i: number): Exact | undefined {
    return MOVES[node.kind](this.#moving(node, i), c as readonly [Exact, Exact, Exact]);
  }

  /** What the move of one component is told of its operands. */
  #moving(node: Node, i: number): Moving {
    const operand = (index: number): Node => this.#operand(node, index, i);
    return {
      isWhole: (x) => this.isWhole(x),
      isTakenUp: (x) => node.kind === 'mod' && this.#isTakenUpBy(node, x, operand(1)),
      exactly: (index) => this.#exactly(operand(index)),
      divided: (x, index) => this.#divided(x, operand(index)),
    };
  }

  #divided(x: Exact, divisor: Node): Exact | undefined {
    const by = this.#exactly(divisor);
    if (isZero(by)) return ZERO;
    // Divided by 0 is 0: what may be nothing at some setting takes the change up there, and only there.
    if (this.#signs.of(divisor) === undefined) return undefined;
    const b = this.graph.builder;
    return quotient(x, by) ?? product(x, atom(b.div(1, divisor)));
  }

  #inputChange(node: NodeKind<'input'>): Change | undefined {
    if (this.shift === 'loop') return undefined;
    const [du, dv] = DISPLACEMENTS[this.shift].uv;
    switch (node.payload) {
      case 'uv':
      case 'uv2':
      case 'screen':
        return [du, dv].map(whole);
      case 'position':
      case 'world':
        return [du, -dv, 0].map(whole);
      default:
        return undefined;
    }
  }

  #callChange(fn: IrFunction, args: readonly Change[], width: number): { change: Change; broken: Break | undefined } {
    const key = `${fn.name}(${args.map((c) => c.map((x) => (x ? printed(x) : '?')).join()).join(';')})`;
    let found = this.#calls.get(key);
    if (found) return found;
    const breaks = new Map<Node, Break>();
    const change = this.#follow(fn.result, new Map(), breaks, args);
    const [inside] = breaks.values();
    // What moves by its parameters inside means nothing outside.
    found = {
      change: Array.from({ length: width }, (_, i) => (change[i] && isZero(change[i]) ? ZERO : undefined)),
      broken: inside,
    };
    this.#calls.set(key, found);
    return found;
  }
}
