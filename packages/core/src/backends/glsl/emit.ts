import type { Program, Step } from '../../check/program.ts';
import type { Graph } from '../../lower/lower.ts';
import { frameValues } from '../../ir/hoist.ts';
import {
  inOrder,
  PIXEL_INPUTS,
  widthOf,
  type ImageSlot,
  type IrFunction,
  type IrType,
  type Node,
  type PixelInput,
} from '../../ir/node.ts';
import { withGradients } from './gradients.ts';
import { EXPRESSIONS, glslType, HELPERS, type ExpressionContext, type Helper, type Text } from './expressions.ts';
import { Names } from './names.ts';

/** A value the host computes once a frame and sets: `node` evaluated in float64. */
export interface GlslUniform {
  readonly name: string;
  readonly type: IrType;
  readonly node: Node;
}

export interface GlslSampler {
  readonly name: string;
  readonly slot: ImageSlot;
}

/** A material in GLSL ES 3.00: declarations and a function `material`, to be put into a whole shader. */
export interface GlslMaterial {
  readonly code: string;
  /** In the order of the function's parameters, before its outputs. */
  readonly inputs: readonly PixelInput[];
  readonly outputs: readonly { readonly name: string; readonly type: IrType }[];
  readonly uniforms: readonly GlslUniform[];
  readonly samplers: readonly GlslSampler[];
}

/** What a step is called in the shader, and what is said above it. */
interface StepName {
  readonly name: string;
  readonly comments: readonly string[];
}

const isLeaf = (node: Node): boolean =>
  node.kind === 'constant' || node.kind === 'input' || node.kind === 'parameter' || node.frequency === 'frame';

/** The notes above and behind a step's line in the text, then the step itself, without its line ends. */
function commentsOf({ tree: { text, tokens, statements } }: Program): (step: Step) => string[] {
  const notes = tokens.filter((t) => t.kind === 'comment');
  /** The last of a list in text order that fits, by halving; -1 where none does. */
  const last = <T>(list: readonly T[], fits: (item: T) => boolean): number => {
    let [low, high] = [0, list.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (fits(list[middle]!)) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  };
  return ({ span }) => {
    const before = statements[last(statements, (s) => s.to <= span.from)];
    // What stands behind the statement before, on its line, is its own.
    const from = before ? Math.max(before.to, text.indexOf('\n', before.to)) : 0;
    const end = text.indexOf('\n', span.to);
    const until = last(notes, (t) => t.to <= (end < 0 ? text.length : end)) + 1;
    const own = notes.slice(last(notes, (t) => t.from < from) + 1, until).map((t) => t.text.slice(2).trim());
    const line = text
      .slice(span.from, span.to)
      .replace(/\/\/[^\n]*/g, '')
      .replace(/\s+/g, ' ')
      .trim();
    return [...own.filter((note) => note !== ''), line];
  };
}

/** Writes what a set of results needs, as `void material(inputs..., out results...)`. */
export function emitGlsl(graph: Graph, results: ReadonlyMap<string, Node>): GlslMaterial {
  return new Emitter(graph).emit(results);
}

class Emitter {
  /** Of what is declared outside `material`. All of it is named before anything within. */
  readonly #globals = new Names();
  readonly #helpers = new Map<string, string>();
  readonly #callees = new Map<IrFunction, string>();
  readonly #functions = new Map<IrFunction, string>();
  readonly #uniforms = new Map<Node, GlslUniform>();
  readonly #samplers = new Map<string, GlslSampler>();
  readonly #inputs = new Set<PixelInput>();

  /** The graph's steps, with explicit gradients where reads need them. */
  #steps: readonly Node[] = [];

  constructor(readonly graph: Graph) {}

  emit(wanted: ReadonlyMap<string, Node>): GlslMaterial {
    const given = withGradients(this.graph.builder, [...wanted.values()]);
    this.#steps = this.graph.steps.map(given);
    const results = new Map([...wanted].map(([name, node]) => [name, given(node)]));
    const roots = [...results.values()];
    this.#nameGlobals(roots);
    this.#nameUniforms(roots);
    const outputs = [...results].map(([name, node]) => ({ name, type: node.type }));
    const names = new Names(this.#globals);
    for (const { name } of outputs) names.take(`out_${name}`);
    const body = this.#body(roots, this.#stepNames(), [], names);
    const inputs = (Object.keys(PIXEL_INPUTS) as PixelInput[]).filter((i) => this.#inputs.has(i));
    const parameters = [
      ...inputs.map((i) => `${glslType(PIXEL_INPUTS[i])} ${i}`),
      ...outputs.map((o) => `out ${glslType(o.type)} out_${o.name}`),
    ];
    const uniforms = [...this.#uniforms.values()];
    const samplers = [...this.#samplers.values()];
    const code = [
      ...uniforms.map((u) => `uniform ${glslType(u.type)} ${u.name};`),
      ...samplers.map((s) => `uniform sampler2D ${s.name};`),
      '',
      ...this.#helpers.values(),
      ...this.#functions.values(),
      '',
      `void material(${parameters.join(', ')}) {`,
      ...body.lines,
      ...outputs.map((o, i) => `  out_${o.name} = ${body.results[i]?.text ?? ''};`),
      '}',
      '',
    ];
    return { code: code.join('\n'), inputs, outputs, uniforms, samplers };
  }

  /** Helpers keep their names, then functions and samplers take theirs, in the order they are come upon. */
  #nameGlobals(roots: readonly Node[]): void {
    for (const helper of Object.keys(HELPERS)) this.#globals.take(helper);
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

  #helper(name: Helper, type: IrType): string {
    const width = widthOf(type);
    if (width > 1 && (name === 'safe_pow' || name === 'safe_atan')) this.#helper(name, 'f1');
    this.#helpers.set(`${name}${String(width)}`, HELPERS[name](glslType(type), width));
    return name;
  }

  #function(fn: IrFunction): string {
    const name = this.#callees.get(fn)!;
    if (this.#functions.has(fn)) return name;
    const names = new Names(this.#globals);
    const parameters = fn.parameters.map((p) => names.take(p.name));
    const body = this.#body([fn.result], new Map(), parameters, names);
    const head = `${glslType(fn.result.type)} ${name}(${fn.parameters.map((p, i) => `${glslType(p.type)} ${parameters[i] ?? ''}`).join(', ')})`;
    const code = [`// ${fn.about}`, `${head} {`, ...body.lines, `  return ${body.results[0]?.text ?? ''};`, '}'].join(
      '\n',
    );
    this.#functions.set(fn, code);
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
      if (step) lines.push(...step.comments.map((comment) => `  // ${comment}`));
      lines.push(`  ${glslType(node.type)} ${name} = ${text.text};`);
      texts.set(node, { text: name, level: 4, type: node.type });
    }
    return { lines, results: roots.map(textOf) };
  }

  #text(node: Node, args: readonly Text[], context: ExpressionContext): Text {
    const emit = EXPRESSIONS[node.kind] as (node: Node, args: readonly Text[], context: ExpressionContext) => Text;
    return emit(node, args, context);
  }
}
