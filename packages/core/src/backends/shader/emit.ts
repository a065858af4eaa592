import type { Dial } from '../../check/program.ts';
import type { Graph } from '../../lower/lower.ts';
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
import { internalUnits } from '../dial-units.ts';
import { FIELD_WORDS } from '../reserved.ts';
import { frameFields, frameNames, isLeaf, stepNames, type StepName } from './step-names.ts';
import type { Declared, Dialect, Express, ExpressionContext, Operands } from './dialect.ts';
import { Names } from '../names.ts';
import { floatText, type Text } from './text.ts';

/** A field of the frame: computed by the shader's own function of the frame, or by the host, from `node` in float64. */
export interface ShaderUniform {
  readonly name: string;
  /** Truth is handed over as an unsigned number. */
  readonly type: IrType;
  readonly node: Node;
}

export interface ShaderSampler {
  readonly name: string;
  readonly slot: ImageSlot;
}

/** A material in a shading language: declarations and functions, to be put into a whole shader. */
export interface ShaderMaterial {
  readonly code: string;
  /** What it declares, by what it is: all of it begins with the name that was asked for. */
  readonly names: {
    /** Gives the outputs from the inputs, in their order, and the frame. */
    readonly material: string;
    /** Gives the frame from dials and time. */
    readonly frame: string;
    readonly Dials: string;
    readonly Frame: string;
    readonly Outputs: string;
  };
  /** In the order of the function's parameters, before the frame. */
  readonly inputs: readonly PixelInput[];
  /** Fields of the outputs. */
  readonly outputs: readonly { readonly name: string; readonly type: IrType }[];
  /** Fields of the frame. */
  readonly uniforms: readonly ShaderUniform[];
  /** Fields of the dials, in Wake's units. */
  readonly dials: readonly { readonly name: string; readonly type: IrType; readonly dial: Dial }[];
  readonly samplers: readonly ShaderSampler[];
}

/** What inputs are called in shaders. */
export const INPUT_NAMES: Readonly<Record<PixelInput, string>> = {
  uv: 'uv',
  uv2: 'uv2',
  screen: 'screen',
  position: 'position',
  world: 'world',
  vertex_color: 'vertex_color',
  facing: 'n_dot_v',
  depth_behind: 'depth_behind',
};

/** A field that stands where a struct would be empty, which not every language takes. */
const UNUSED = { name: 'unused', type: 'f1' } as const;

/** What a function's body is written from. */
interface Body {
  readonly roots: readonly Node[];
  readonly names: Names;
  readonly steps?: ReadonlyMap<Node, StepName>;
  readonly parameters?: readonly string[];
  /** The text of what is not computed here. */
  readonly given?: (node: Node) => Text | undefined;
  /** All values of the frame that are read are given. */
  readonly ofPixels?: boolean;
}

/**
 * Writes what a set of results needs in a dialect: a function of what differs from pixel to pixel, and one of the values
 * of a frame. All that is declared is called by `name`, or begins with it and `_`; it is an identifier.
 */
export function emitShader(
  dialect: Dialect,
  graph: Graph,
  results: ReadonlyMap<string, Node>,
  name = 'material',
): ShaderMaterial {
  return new Emitter(dialect, graph, name).emit(results);
}

class Emitter {
  /** Of what is declared outside functions. All of it is named before anything within. */
  readonly #globals: Names;
  readonly #helperNames = new Map<string, string>();
  readonly #helpers = new Map<string, string>();
  readonly #callees = new Map<IrFunction, string>();
  readonly #functions = new Map<IrFunction, string>();
  #uniforms: ReadonlyMap<Node, ShaderUniform> = new Map();
  readonly #samplers = new Map<string, ShaderSampler>();
  readonly #inputs = new Set<PixelInput>();
  readonly #dials: ShaderMaterial['dials'];
  readonly #names: ShaderMaterial['names'];

  constructor(
    readonly dialect: Dialect,
    readonly graph: Graph,
    readonly name: string,
  ) {
    this.#globals = new Names(dialect.reserved);
    const [material, frame, Dials, Frame, Outputs] = ['', '_frame', '_Dials', '_Frame', '_Outputs'].map((end) =>
      this.#globals.take(`${name}${end}`),
    ) as [string, string, string, string, string];
    this.#names = { material, frame, Dials, Frame, Outputs };
    const fields = new Names(FIELD_WORDS);
    this.#dials = graph.program.dials.map((dial) => ({
      name: fields.take(dial.name),
      type: irType('f', dial.value.length),
      dial,
    }));
  }

  emit(wanted: ReadonlyMap<string, Node>): ShaderMaterial {
    const { dialect } = this;
    const given = withGradients(this.graph.builder, [...wanted.values()]);
    const steps = this.graph.steps.map(given);
    const results = new Map([...wanted].map(([name, node]) => [name, given(node)]));
    const roots = [...results.values()];
    this.#nameGlobals(roots);
    this.#uniforms = frameFields(this.graph, steps, roots);
    const outputs = [...results].map(([name, node]) => ({ name, type: node.type }));
    const frame = this.#frameFunction();
    const material = this.#pixelFunction(roots, outputs, stepNames(this.graph, steps));
    const uniforms = [...this.#uniforms.values()];
    const samplers = [...this.#samplers.values()];
    const code = [
      ...samplers.map((s, i) => dialect.sampler(s.name, i)),
      this.#struct(this.#names.Dials, this.#dials),
      this.#struct(this.#names.Frame, uniforms),
      this.#struct(this.#names.Outputs, outputs),
      '',
      ...this.#helpers.values(),
      ...this.#functions.values(),
      '',
      dialect.comment('The values of a frame, from dials and seconds.'),
      frame,
      '',
      material,
      '',
    ];
    return {
      code: code.join('\n'),
      names: this.#names,
      inputs: this.#usedInputs(),
      outputs,
      uniforms,
      dials: this.#dials,
      samplers,
    };
  }

  #usedInputs(): PixelInput[] {
    return (Object.keys(PIXEL_INPUTS) as PixelInput[]).filter((i) => this.#inputs.has(i));
  }

  #struct(name: string, fields: readonly { readonly name: string; readonly type: IrType }[]): string {
    const all = fields.length === 0 ? [UNUSED] : fields;
    return this.dialect.struct(
      name,
      all.map((f) => ({ name: f.name, type: this.dialect.typeName(f.type) })),
    );
  }

  /** A function that sets the fields of a struct, one after the other, and gives it. */
  #record(
    name: string,
    type: string,
    parameters: readonly Declared[],
    body: readonly string[],
    fields: readonly { readonly name: string; readonly value: string }[],
    names: Names,
  ): string {
    const { dialect } = this;
    const result = names.take('result');
    const set = fields.length === 0 ? [{ name: UNUSED.name, value: '0.0' }] : fields;
    return dialect.function(
      { name, type },
      parameters,
      [...body, dialect.variable({ name: result, type }), ...set.map((f) => `${result}.${f.name} = ${f.value};`)],
      result,
    );
  }

  #pixelFunction(
    roots: readonly Node[],
    outputs: ShaderMaterial['outputs'],
    steps: ReadonlyMap<Node, StepName>,
  ): string {
    const { dialect } = this;
    const names = this.#globals.within();
    for (const name of Object.values(INPUT_NAMES)) names.take(name);
    const frame = names.take('frame');
    const given = (node: Node): Text | undefined => {
      const field = this.#uniforms.get(node);
      if (!field) return undefined;
      const text = `${frame}.${field.name}`;
      return {
        text: scalarOf(node.type) === 'b' ? dialect.truth(text, widthOf(node.type)) : text,
        level: 4,
        type: node.type,
      };
    };
    const { lines, results } = this.#body({ roots, names, steps, given, ofPixels: true });
    const parameters = this.#usedInputs().map((i) => ({
      name: INPUT_NAMES[i],
      type: dialect.typeName(PIXEL_INPUTS[i]),
    }));
    return this.#record(
      this.#names.material,
      this.#names.Outputs,
      [...parameters, { name: frame, type: this.#names.Frame }],
      lines,
      outputs.map((o, i) => ({ name: o.name, value: results[i]?.text ?? '0.0' })),
      names,
    );
  }

  #frameFunction(): string {
    const { dialect } = this;
    const uniforms = [...this.#uniforms.values()];
    const names = this.#globals.within();
    const [dials, time] = [names.take('dials'), names.take('time')];
    const { loop } = this.graph.program;
    const given = (node: Node): Text | undefined => {
      if (node.kind !== 'uniform') return undefined;
      const source = node.payload;
      if (source === 'time') return { text: time, level: 4, type: node.type };
      const field = this.#dials.find((d) => d.dial.name === source.dial);
      if (!field) return undefined;
      const text = { text: `${dials}.${field.name}`, level: 4, type: node.type };
      const { times, over } = internalUnits(field.dial, loop);
      if (times !== 1) return { text: `${text.text} * ${floatText(times)}`, level: 2, type: node.type };
      return over === 1 ? text : { text: `${text.text} / ${floatText(over)}`, level: 2, type: node.type };
    };
    // Truth has no place in memory that hosts share with shaders.
    const { builder } = this.graph;
    const roots = uniforms.map(({ node }) => (scalarOf(node.type) === 'b' ? builder.convert('u', node) : node));
    const { lines, results } = this.#body({ roots, names, steps: frameNames(uniforms), given });
    return this.#record(
      this.#names.frame,
      this.#names.Frame,
      [
        { name: dials, type: this.#names.Dials },
        { name: time, type: dialect.typeName('f1') },
      ],
      lines,
      uniforms.map((u, i) => ({ name: u.name, value: results[i]!.text })),
      names,
    );
  }

  /** Helpers take their names, then functions and samplers theirs, in the order they are come upon. */
  #nameGlobals(roots: readonly Node[]): void {
    for (const helper of Object.keys(this.dialect.helpers))
      this.#helperNames.set(helper, this.#globals.take(`${this.name}_${helper}`));
    const name = (roots: readonly Node[]): void => {
      for (const node of inOrder(roots)) {
        if (node.kind === 'sample' && !this.#samplers.has(node.payload.name))
          this.#samplers.set(node.payload.name, {
            name: this.#globals.take(`${this.name}_image_${node.payload.name}`),
            slot: node.payload,
          });
        if (node.kind !== 'call' || this.#callees.has(node.payload)) continue;
        this.#callees.set(node.payload, this.#globals.take(`${this.name}_${node.payload.name}`));
        name([node.payload.result]);
      }
    };
    name(roots);
  }

  #context(parameters: readonly string[]): ExpressionContext {
    return {
      helper: (name, type) => this.#helper(name, type),
      input: (node) => {
        this.#inputs.add(node.payload);
        return INPUT_NAMES[node.payload];
      },
      uniform: () => '0.0',
      parameter: (node) => parameters[node.payload] ?? '',
      sampler: (node) => this.#samplers.get(node.payload.name)!.name,
      callee: (node) => this.#function(node.payload),
    };
  }

  #helper(name: string, type: IrType): string {
    const key = `${name} ${type}`;
    const nameOf = (of: IrType): string => `${this.#helperNames.get(name)!}${this.dialect.overload(of)}`;
    if (this.#helpers.has(key)) return nameOf(type);
    const helper = this.dialect.helpers[name]!;
    if (helper.byComponents && widthOf(type) > 1) this.#helper(name, irType(scalarOf(type), 1));
    this.#helpers.set(key, helper.write(type, nameOf));
    return nameOf(type);
  }

  #function(fn: IrFunction): string {
    const name = this.#callees.get(fn)!;
    if (this.#functions.has(fn)) return name;
    const { dialect } = this;
    const names = this.#globals.within();
    const parameters = fn.parameters.map((p) => ({ name: names.take(p.name), type: dialect.typeName(p.type) }));
    const { lines, results } = this.#body({
      roots: [fn.result],
      names,
      parameters: parameters.map((p) => p.name),
    });
    const of = { name, type: dialect.typeName(fn.result.type) };
    const code = dialect.function(of, parameters, lines, results[0]?.text ?? '');
    this.#functions.set(fn, `${dialect.comment(fn.about)}\n${code}`);
    return name;
  }

  /** The statements that compute the roots: a local for each step and for what is used more than once. */
  #body({ roots, names, steps, parameters = [], given = () => undefined, ofPixels = false }: Body): {
    lines: string[];
    results: Text[];
  } {
    const texts = new Map<Node, Text>();
    const order: Node[] = [];
    const uses = new Map<Node, number>();
    for (const node of inOrder(roots)) {
      const known = given(node);
      if (known) texts.set(node, known);
      // What else is the same over a frame only serves what is given.
      else if (!isLeaf(node) && !(ofPixels && node.frequency === 'frame')) {
        order.push(node);
        for (const arg of node.args) uses.set(arg, (uses.get(arg) ?? 0) + 1);
      }
    }
    for (const root of roots) uses.set(root, (uses.get(root) ?? 0) + 1);
    const context = this.#context(parameters);
    const lines: string[] = [];
    let local = 0;
    const textOf = (node: Node): Text => {
      const known = texts.get(node);
      if (known) return known;
      // Leaves are written anew wherever they stand.
      const text = this.#text(node, [], context);
      texts.set(node, text);
      return text;
    };
    for (const node of order) {
      const text = this.#text(node, node.args.map(textOf), context);
      const step = steps?.get(node);
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
      lines.push(this.dialect.local({ name, type: this.dialect.typeName(node.type) }, text.text));
      texts.set(node, { text: name, level: 4, type: node.type });
    }
    return { lines, results: roots.map(textOf) };
  }

  #text(node: Node, args: readonly Text[], context: ExpressionContext): Text {
    return (this.dialect.expressions[node.kind] as Express<Kind>)(node, args as unknown as Operands, context);
  }
}
