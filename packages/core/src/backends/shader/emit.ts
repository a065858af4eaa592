import type { Graph } from '../../lower/lower.ts';
import { frameValues } from '../../ir/hoist.ts';
import {
  inOrder,
  irType,
  PIXEL_INPUTS,
  scalarOf,
  widthOf,
  type ImageSlot,
  type IrFunction,
  type IrType,
  type Kind,
  type Node,
  type PixelInput,
} from '../../ir/node.ts';
import { withGradients } from './gradients.ts';
import { commentsOf } from './comments.ts';
import type { Dialect, Express, ExpressionContext, Operands } from './dialect.ts';
import { Names } from './names.ts';
import type { Text } from './text.ts';

/** A value the host computes once a frame and sets: `node` evaluated in float64. */
export interface ShaderUniform {
  readonly name: string;
  readonly type: IrType;
  readonly node: Node;
}

export interface ShaderSampler {
  readonly name: string;
  readonly slot: ImageSlot;
}

/** A material in a shading language: declarations and a function `material`, to be put into a whole shader. */
export interface ShaderMaterial {
  readonly code: string;
  /** In the order of the function's parameters, before its outputs. */
  readonly inputs: readonly PixelInput[];
  readonly outputs: readonly { readonly name: string; readonly type: IrType }[];
  readonly uniforms: readonly ShaderUniform[];
  readonly samplers: readonly ShaderSampler[];
}

/** What a step is called in the shader, and what is said above it. */
interface StepName {
  readonly name: string;
  readonly comments: readonly string[];
}

const isLeaf = (node: Node): boolean =>
  node.kind === 'constant' || node.kind === 'input' || node.kind === 'parameter' || node.frequency === 'frame';

/** Writes what a set of results needs in a dialect, as a function `material` of what differs from pixel to pixel. */
export function emitShader(dialect: Dialect, graph: Graph, results: ReadonlyMap<string, Node>): ShaderMaterial {
  return new Emitter(dialect, graph).emit(results);
}

class Emitter {
  /** Of what is declared outside `material`. All of it is named before anything within. */
  readonly #globals: Names;
  readonly #helpers = new Map<string, string>();
  readonly #callees = new Map<IrFunction, string>();
  readonly #functions = new Map<IrFunction, string>();
  readonly #uniforms = new Map<Node, ShaderUniform>();
  readonly #samplers = new Map<string, ShaderSampler>();
  readonly #inputs = new Set<PixelInput>();

  /** The graph's steps, with explicit gradients where reads need them. */
  #steps: readonly Node[] = [];

  constructor(
    readonly dialect: Dialect,
    readonly graph: Graph,
  ) {
    this.#globals = new Names(dialect.reserved);
  }

  emit(wanted: ReadonlyMap<string, Node>): ShaderMaterial {
    const given = withGradients(this.graph.builder, [...wanted.values()]);
    this.#steps = this.graph.steps.map(given);
    const results = new Map([...wanted].map(([name, node]) => [name, given(node)]));
    const roots = [...results.values()];
    this.#nameGlobals(roots);
    this.#nameUniforms(roots);
    const outputs = [...results].map(([name, node]) => ({ name, type: node.type }));
    const names = this.#globals.within();
    const set = outputs.map(({ name, type }) => ({ name: names.take(`out_${name}`), type }));
    const body = this.#body(roots, this.#stepNames(), [], names);
    const inputs = (Object.keys(PIXEL_INPUTS) as PixelInput[]).filter((i) => this.#inputs.has(i));
    const uniforms = [...this.#uniforms.values()];
    const samplers = [...this.#samplers.values()];
    const { dialect } = this;
    const code = [
      ...uniforms.map((u) => dialect.uniform(u)),
      ...samplers.map((s) => dialect.sampler(s.name)),
      '',
      ...this.#helpers.values(),
      ...this.#functions.values(),
      '',
      dialect.material(
        'material',
        inputs.map((name) => ({ name, type: PIXEL_INPUTS[name] })),
        set.map((o, i) => ({ ...o, value: body.results[i]?.text ?? '' })),
        body.lines,
      ),
      '',
    ];
    return { code: code.join('\n'), inputs, outputs, uniforms, samplers };
  }

  /** Helpers keep their names, then functions and samplers take theirs, in the order they are come upon. */
  #nameGlobals(roots: readonly Node[]): void {
    for (const helper of Object.keys(this.dialect.helpers)) this.#globals.take(helper);
    const name = (roots: readonly Node[]): void => {
      for (const node of inOrder(roots)) {
        if (node.kind === 'sample' && !this.#samplers.has(node.payload.name))
          this.#samplers.set(node.payload.name, {
            name: this.#globals.take(`image_${node.payload.name}`),
            slot: node.payload,
          });
        if (node.kind !== 'call' || this.#callees.has(node.payload)) continue;
        this.#callees.set(node.payload, this.#globals.take(node.payload.name));
        name([node.payload.result]);
      }
    };
    name(roots);
  }

  /** Steps in text order with what they compute; the first of equal ones names it. */
  #stepNames(): Map<Node, StepName> {
    const { program } = this.graph;
    const steps = this.#steps;
    const names = new Map<Node, StepName>();
    const comments = commentsOf(program);
    program.steps.forEach((step, i) => {
      const node = steps[i];
      if (!node || isLeaf(node) || names.has(node) || (step.off && step.kind === 'step')) return;
      names.set(node, { name: step.kind === 'out' ? `final_${step.name}` : step.name, comments: comments(step) });
    });
    return names;
  }

  /** Dials and time keep their names; what is made of them is called by the step it first serves. */
  #nameUniforms(roots: readonly Node[]): void {
    const wanted = new Set(frameValues(roots));
    const { program } = this.graph;
    const steps = this.#steps;
    const by = new Map<Node, string>();
    const done = new Set<Node>();
    program.steps.forEach((step, i) => {
      const node = steps[i];
      if (node) for (const value of frameValues([node], done)) if (!by.has(value)) by.set(value, step.name);
    });
    for (const node of wanted) {
      const base =
        node.kind === 'uniform'
          ? node.payload === 'time'
            ? 'time'
            : node.payload.dial
          : `${by.get(node) ?? 'frame'}_value`;
      this.#uniforms.set(node, { name: this.#globals.take(`u_${base}`), type: node.type, node });
    }
  }

  #context(parameters: readonly string[]): ExpressionContext {
    return {
      helper: (name, type) => this.#helper(name, type),
      input: (node) => {
        this.#inputs.add(node.payload);
        return node.payload;
      },
      uniform: (node) => this.#uniforms.get(node)?.name ?? '0.0',
      parameter: (node) => parameters[node.payload] ?? '',
      sampler: (node) => this.#samplers.get(node.payload.name)!.name,
      callee: (node) => this.#function(node.payload),
    };
  }

  #helper(name: string, type: IrType): string {
    const key = `${name} ${type}`;
    if (this.#helpers.has(key)) return name;
    const helper = this.dialect.helpers[name]!;
    if (helper.byComponents && widthOf(type) > 1) this.#helper(name, irType(scalarOf(type), 1));
    this.#helpers.set(key, helper.write(type));
    return name;
  }

  #function(fn: IrFunction): string {
    const name = this.#callees.get(fn)!;
    if (this.#functions.has(fn)) return name;
    const names = this.#globals.within();
    const parameters = fn.parameters.map((p) => ({ name: names.take(p.name), type: p.type }));
    const { lines, results } = this.#body(
      [fn.result],
      new Map(),
      parameters.map((p) => p.name),
      names,
    );
    const { dialect } = this;
    const of = { name, type: fn.result.type };
    const code = dialect.function(of, parameters, lines, results[0]?.text ?? '');
    this.#functions.set(fn, `${dialect.comment(fn.about)}\n${code}`);
    return name;
  }

  /** The statements that compute the roots: a local for each step and for what is used more than once. */
  #body(
    roots: readonly Node[],
    steps: ReadonlyMap<Node, StepName>,
    parameters: readonly string[],
    names: Names,
  ): { lines: string[]; results: Text[] } {
    const order = inOrder(roots).filter((n) => !isLeaf(n) || n.frequency === 'frame');
    const uses = new Map<Node, number>();
    for (const node of order) for (const arg of node.args) uses.set(arg, (uses.get(arg) ?? 0) + 1);
    for (const root of roots) uses.set(root, (uses.get(root) ?? 0) + 1);
    const context = this.#context(parameters);
    const texts = new Map<Node, Text>();
    const lines: string[] = [];
    let local = 0;
    const textOf = (node: Node): Text => {
      const known = texts.get(node);
      if (known) return known;
      // Leaves are written anew wherever they stand.
      const text =
        node.frequency === 'frame' && this.#uniforms.has(node)
          ? { text: context.uniform(node), level: 4, type: node.type }
          : this.#text(node, [], context);
      texts.set(node, text);
      return text;
    };
    for (const node of order) {
      if (node.frequency === 'frame') continue;
      const text = this.#text(node, node.args.map(textOf), context);
      const step = steps.get(node);
      // A read inside a choice would have no gradient of its own.
      const keep =
        step !== undefined ||
        node.kind === 'sample' ||
        node.kind === 'derivative' ||
        ((uses.get(node) ?? 0) > 1 && node.kind !== 'swizzle' && node.kind !== 'neg') ||
        text.text.length > 160;
      if (!keep) {
        texts.set(node, text);
        continue;
      }
      const name = names.take(step?.name ?? `t${String(++local)}`);
      if (step) lines.push(...step.comments.map((comment) => this.dialect.comment(comment)));
      lines.push(this.dialect.local({ name, type: node.type }, text.text));
      texts.set(node, { text: name, level: 4, type: node.type });
    }
    return { lines, results: roots.map(textOf) };
  }

  #text(node: Node, args: readonly Text[], context: ExpressionContext): Text {
    return (this.dialect.expressions[node.kind] as Express<Kind>)(node, args as unknown as Operands, context);
  }
}
