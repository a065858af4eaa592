import type { Program, Step, Typed, UserOperation } from '../check/program.ts';
import { valueTypeOf } from '../check/literals.ts';
import { isValue } from '../check/scope.ts';
import { GREATEST } from '../diagnostics/limits.ts';
import { say } from '../diagnostics/wording.ts';
import { Diagnostics, type Diagnostic } from '../diagnostics/diagnostic.ts';
import type { Arguments, LowerContext } from '../ops/operation.ts';
import { HAIR, TAU } from '../ops/shared.ts';
import { componentsOf, isPlain, type RampTable, type ValueType } from '../ops/value-type.ts';
import { Builder, NODE_LIMIT } from '../ir/builder.ts';
import { inOrder, irType, scalarOf, type ImageSlot, type Node } from '../ir/node.ts';

/** Most expansions of user operations: nesting them multiplies. */
export const EXPANSION_LIMIT = 10_000;
export const SAMPLER_LIMIT = 16;

/** A material as graphs: one node for each step and output. */
export interface Graph {
  readonly program: Program;
  readonly builder: Builder;
  /** Time, as operations are given it. */
  readonly context: LowerContext;
  /** By step index. Outputs that are off are here too, and `outputs` leaves them out. */
  readonly steps: readonly Node[];
  readonly outputs: ReadonlyMap<string, Node>;
  readonly images: readonly ImageSlot[];
  /** What each call outside operations of one's own was given, by parameter; defaults included. */
  readonly argumentsOf: ReadonlyMap<Typed, ReadonlyMap<string, Node>>;
  /** What each expression outside operations of one's own came to. */
  readonly valueOf: ReadonlyMap<Typed, Node>;
  /** Switch values the graph was made for; empty where they are left open. */
  readonly switches: ReadonlyMap<string, boolean>;
  /** What only expanding can tell: limits. */
  readonly diagnostics: readonly Diagnostic[];
}

/** What an argument or operand is once lowered. */
interface Lowered {
  readonly node?: Node;
  readonly inLaps?: boolean;
  readonly image?: ImageSlot;
  readonly ramp?: RampTable;
  readonly word?: string;
}

/**
 * Lowers a checked material, with its switches settled as given or as written; or `open`, each a value of the frame like
 * a dial's of 0 or 1.
 */
export function lower(
  program: Program,
  switches: ReadonlyMap<string, boolean> | 'open' = new Map(),
  builder = new Builder(),
): Graph {
  return new Lowering(program, switches, builder).run();
}

const isTooLargeValue = (v: number): boolean => !(Math.abs(v) <= GREATEST);
/** A constant that no 32-bit float holds. */
const isTooLarge = (node: Node): boolean =>
  node.kind === 'constant' && scalarOf(node.type) === 'f' && node.payload.some(isTooLargeValue);

class Lowering {
  readonly #b: Builder;
  readonly #context: LowerContext;
  readonly #switches: ReadonlyMap<string, boolean>;
  readonly #steps = new Map<Step, Lowered>();
  readonly #arguments = new Map<Typed, ReadonlyMap<string, Node>>();
  readonly #values = new Map<Typed, Node>();
  readonly #found = new Diagnostics();
  /** Where a constant beyond range was found: what it is part of is not told again. */
  readonly #large: Typed[] = [];
  #expansions = 0;

  constructor(
    readonly program: Program,
    switches: ReadonlyMap<string, boolean> | 'open',
    builder: Builder,
  ) {
    this.#b = builder;
    this.#switches =
      switches === 'open' ? new Map() : new Map(program.switches.map((s) => [s.name, switches.get(s.name) ?? s.on]));
    const time = builder.uniform('time');
    this.#context = {
      b: builder,
      time,
      loops: builder.div(time, program.loop.seconds),
      loopSeconds: program.loop.seconds,
    };
  }

  run(): Graph {
    const found = this.#found;
    const looked = new Set<Node>();
    const outputs = new Map<string, Node>();
    const steps = this.program.steps.map((step) => {
      const lowered = this.#step(step, []);
      this.#steps.set(step, lowered);
      const node = this.#nodeOf(lowered, step.type === 'unknown' ? 'number' : step.type);
      if (step.kind === 'out' && !step.off) outputs.set(step.name, node);
      // What is no value of an expression, such as a sum within an operation.
      if (inOrder([node], looked).some(isTooLarge)) this.#tooLarge(step.value);
      if ((this.#b.full || this.#expansions > EXPANSION_LIMIT) && found.all().length === 0)
        found.add(say.tooManyNodes(NODE_LIMIT), step.span);
      return node;
    });
    const images = new Map<string, ImageSlot>();
    for (const node of inOrder([...outputs.values()]))
      if (node.kind === 'sample') images.set(node.payload.name, node.payload);
    if (images.size > SAMPLER_LIMIT) {
      const first = this.program.images.find((i) => i.name === [...images.keys()][SAMPLER_LIMIT]);
      found.add(say.tooManySamplers(SAMPLER_LIMIT), first?.nameSpan ?? { from: 0, to: 0 });
    }
    const all = new Map<string, ImageSlot>(images);
    for (const node of inOrder(steps)) if (node.kind === 'sample') all.set(node.payload.name, node.payload);
    return {
      program: this.program,
      builder: this.#b,
      context: this.#context,
      steps,
      outputs,
      images: [...all.values()],
      argumentsOf: this.#arguments,
      valueOf: this.#values,
      switches: this.#switches,
      diagnostics: found.all(),
    };
  }

  /** uv where a coordinate is wanted, else zeros. */
  #neutral(type: ValueType, coordinates: boolean): Node {
    if (type === 'vec2' && coordinates) return this.#b.input('uv');
    return this.#b.zero(irType('f', componentsOf(type)));
  }

  #nodeOf(lowered: Lowered, type: ValueType): Node {
    return lowered.node ?? this.#neutral(type, true);
  }

  #step(step: Step, parameters: readonly Lowered[]): Lowered {
    if (step.off && step.kind === 'step') {
      const before = step.before && this.#steps.get(step.before);
      if (before) return before;
      return step.type === 'unknown' ? {} : { node: this.#neutral(step.type, step.coordinates) };
    }
    return this.#lower(step.value, parameters);
  }

  #node(typed: Typed, parameters: readonly Lowered[]): Node {
    const type =
      typed.type === 'image' || typed.type === 'ramp' || typed.type === 'keyword' || typed.type === 'unknown'
        ? 'number'
        : typed.type;
    return this.#nodeOf(this.#lower(typed, parameters), type);
  }

  #lower(typed: Typed, parameters: readonly Lowered[]): Lowered {
    const lowered = this.#lowered(typed, parameters);
    if (lowered.node && parameters.length === 0) this.#values.set(typed, lowered.node);
    if (lowered.node && isTooLarge(lowered.node) && typed.kind !== 'step' && typed.kind !== 'parameter')
      this.#tooLarge(typed);
    return lowered;
  }

  #tooLarge(typed: Typed): void {
    if (this.program.diagnostics.some((d) => d.code === say.constantTooLarge().code)) return;
    if (this.#large.some((l) => typed.from <= l.from && l.to <= typed.to)) return;
    this.#large.push(typed);
    const values = this.#values.get(typed)?.payload;
    const parts =
      Array.isArray(values) && isValue(typed.type) && isPlain(typed.type)
        ? values.map((v: number) => (isTooLargeValue(v) ? (v < 0 ? '-3.4e38' : '3.4e38') : String(v)))
        : [];
    const insert = parts.length === 1 ? parts[0]! : `(${parts.join(', ')})`;
    const fixes =
      parts.length === 0 ? [] : [{ title: `Write ${insert}`, edits: [{ from: typed.from, to: typed.to, insert }] }];
    this.#found.add(say.constantTooLarge(), typed, fixes);
  }

  #lowered(typed: Typed, parameters: readonly Lowered[]): Lowered {
    const b = this.#b;
    switch (typed.kind) {
      case 'error':
        return {};
      case 'constant':
        return { node: b.constant(irType('f', typed.value.length), typed.value), inLaps: typed.inLaps ?? false };
      case 'dial':
        return {
          node: b.uniform({ dial: typed.dial.name }, irType('f', componentsOf(valueTypeOf(typed.dial.type)))),
          inLaps: typed.dial.type === 'laps',
        };
      case 'switch':
        return { node: this.#switch(typed.of.name) };
      case 'step':
        return this.#steps.get(typed.step) ?? {};
      case 'parameter':
        return parameters[typed.index] ?? {};
      case 'built-in':
        return { node: this.#builtIn(typed.name) };
      case 'image':
        return { image: typed.image };
      case 'ramp':
        return { ramp: typed.ramp };
      case 'keyword':
        return { word: typed.word };
      case 'vector':
        return { node: b.vec(...typed.items.map((item) => this.#node(item, parameters))) };
      case 'swizzle':
        return { node: b.swizzle(this.#node(typed.of, parameters), ...typed.indices) };
      case 'negate': {
        const of = this.#lower(typed.of, parameters);
        return { node: b.neg(this.#nodeOf(of, typed.type as ValueType)), inLaps: of.inLaps ?? false };
      }
      case 'binary':
        return this.#binary(typed, parameters);
      case 'convert':
        return this.#convert(typed, parameters);
      case 'call':
        return this.#call(typed, parameters);
      case 'expand':
        return this.#expand(typed.operation(), typed.args, parameters);
    }
  }

  #switch(name: string): Node {
    const on = this.#switches.get(name);
    return on === undefined ? this.#b.uniform({ dial: name }) : this.#b.number(on ? 1 : 0);
  }

  #builtIn(name: Extract<Typed, { kind: 'built-in' }>['name']): Node {
    const { b, time, loops, loopSeconds } = this.#context;
    switch (name) {
      case 'time':
        return time;
      case 'phase':
        return b.fract(loops);
      case 'frame':
        return b.floor(b.add(b.mul(time, this.program.loop.fps), HAIR));
      case 'loop_seconds':
        return b.number(loopSeconds);
      default:
        return b.input(name);
    }
  }

  #binary(typed: Extract<Typed, { kind: 'binary' }>, parameters: readonly Lowered[]): Lowered {
    const b = this.#b;
    const [left, right] = [this.#lower(typed.left, parameters), this.#lower(typed.right, parameters)];
    const [x, y] = [
      this.#nodeOf(left, typed.left.type as ValueType),
      this.#nodeOf(right, typed.right.type as ValueType),
    ];
    const bothLaps = left.inLaps === true && right.inLaps === true;
    switch (typed.operator) {
      case '+':
        return { node: b.add(x, y), inLaps: bothLaps };
      case '-':
        return { node: b.sub(x, y), inLaps: bothLaps };
      case '*': {
        const product = b.mul(x, y);
        // A rate counts periods a loop, so seconds of it are divided by the loop's length.
        const cycles =
          typed.type === 'number' &&
          (typed.left.type === 'time' || typed.right.type === 'time') &&
          typed.left.type !== typed.right.type &&
          (typed.left.type === 'rate' || typed.right.type === 'rate');
        return {
          node: cycles ? b.div(product, this.#context.loopSeconds) : product,
          inLaps: left.inLaps === true || right.inLaps === true,
        };
      }
      case '/':
        return { node: b.div(x, y), inLaps: left.inLaps === true };
      case '<':
        return { node: b.truth(b.lt(x, y)) };
      case '<=':
        return { node: b.truth(b.le(x, y)) };
      case '>':
        return { node: b.truth(b.lt(y, x)) };
      case '>=':
        return { node: b.truth(b.le(y, x)) };
      case '==':
        return { node: b.truth(b.eq(x, y)) };
    }
  }

  #convert(typed: Extract<Typed, { kind: 'convert' }>, parameters: readonly Lowered[]): Lowered {
    const b = this.#b;
    const { into, of } = typed;
    const lowered = this.#lower(of, parameters);
    if (!lowered.node) return { node: this.#neutral(typed.type as ValueType, true) };
    if (into === 'radians') return { node: b.mul(lowered.node, TAU) };
    if (into === 'color')
      return {
        node: of.type === 'number' ? b.vec(lowered.node, lowered.node, lowered.node, 1) : b.vec(lowered.node, 1),
      };
    return { node: b.splat(lowered.node, componentsOf(into)), inLaps: lowered.inLaps ?? false };
  }

  #call(typed: Extract<Typed, { kind: 'call' }>, parameters: readonly Lowered[]): Lowered {
    const b = this.#b;
    const { operation, args } = typed;
    const [first] = operation.parameters;
    const flowing = first && args.get(first.name);
    if (typed.off && flowing) return this.#lower(flowing, parameters);
    const lowered = new Map<string, Lowered>();
    for (const p of operation.parameters) {
      const arg = args.get(p.name);
      if (arg) lowered.set(p.name, this.#lower(arg, parameters));
      else if (typeof p.default === 'string') lowered.set(p.name, { word: p.default });
      else if (p.default !== undefined) {
        const values = typeof p.default === 'number' ? [p.default] : p.default;
        lowered.set(p.name, { node: b.constant(irType('f', values.length), values), inLaps: true });
      }
    }
    if (parameters.length === 0)
      this.#arguments.set(typed, new Map([...lowered].flatMap(([name, { node }]) => (node ? [[name, node]] : []))));
    const node = (name: string): Node =>
      this.#nodeOf(lowered.get(name) ?? {}, (args.get(name)?.type ?? 'number') as ValueType);
    const given: Arguments = {
      get flow() {
        return node(first?.name ?? '');
      },
      has: (name) => args.has(name),
      node,
      number: (name) => {
        const n = node(name);
        return n.kind === 'constant' ? Math.round(n.payload[0] ?? 0) : 1;
      },
      keyword: (name) => lowered.get(name)?.word ?? '',
      image: (name) =>
        lowered.get(name)?.image ?? {
          name: 'missing',
          source: '',
          wrap: 'repeat',
          filter: 'linear',
          encoding: 'color',
        },
      ramp: (name) => lowered.get(name)?.ramp ?? { name: 'missing', stops: [], easing: 'linear' },
      inLaps: (name) => lowered.get(name)?.inLaps === true,
    };
    return { node: operation.lower(this.#context, given) };
  }

  #expand(operation: UserOperation | undefined, args: readonly Typed[], parameters: readonly Lowered[]): Lowered {
    if (!operation || ++this.#expansions > EXPANSION_LIMIT) return {};
    const inner = args.map((arg) => this.#lower(arg, parameters));
    // Each expansion binds the body's steps anew.
    for (const step of operation.steps) this.#steps.set(step, this.#step(step, inner));
    return this.#lower(operation.result, inner);
  }
}
