import { Builder } from '../../ir/builder.ts';
import { frameValues } from '../../ir/hoist.ts';
import {
  inOrder,
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
import { Code, ConstantPool, encodeModule, I32, POOL_BYTES, V128, type ValType } from './encode.ts';
import { clearNotFinite, INSTRUCTIONS, instructionScalar, writeConversion } from './instructions.ts';
import { HEADER_BYTES, readFunction } from './texels.ts';

/** Pixels that one call of `run` computes at most; they stay in the processor's nearest cache. */
export const BLOCK = 1024;

/** Where everything lies in the module's memory, in bytes. Planes hold one component of a block's pixels, as floats. */
export interface Layout {
  readonly frame: ReadonlyMap<Node, number>;
  readonly inputs: ReadonlyMap<PixelInput, number>;
  /** One a root, its components' planes behind each other. */
  readonly outputs: readonly number[];
  readonly images: readonly { readonly slot: ImageSlot; readonly header: number }[];
  /** Vectors of four equal lanes that the code loads. */
  readonly constants: readonly { readonly bits: number; readonly address: number }[];
  /** First byte that is free for texels. */
  readonly end: number;
}

export interface WasmModule {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly layout: Layout;
  readonly roots: readonly Node[];
}

/**
 * Compiles the graphs of several results into one module that computes them together, sharing what they share; `blockSize`
 * pixels at most at a time, a multiple of 4.
 */
export function compileWasm(roots: readonly Node[], blockSize = BLOCK): WasmModule {
  return new Compiler(roots, blockSize).compile();
}

class Compiler {
  readonly #functions: Code[] = [];
  readonly #byFunction = new Map<IrFunction, number>();
  readonly #byKind = new Map<Kind, number>();
  readonly #bySlot = new Map<string, number>();
  readonly #images: { slot: ImageSlot; header: number }[] = [];
  readonly #helpers = new Builder();
  readonly #pool = new ConstantPool();

  /** All nodes of the roots, operands first. */
  readonly #order: readonly Node[];
  #frame: ReadonlyMap<Node, number> = new Map();
  /** For each function: the argument that every call gives a parameter, where it is one, and no pixel's. */
  readonly #invariantArgs: ReadonlyMap<IrFunction, readonly (Node | undefined)[]>;

  /** Bytes of a plane. */
  readonly #plane: number;

  constructor(
    readonly roots: readonly Node[],
    blockSize: number,
  ) {
    this.#plane = blockSize * 4;
    this.#order = inOrder(roots);
    this.#invariantArgs = invariantArgumentsOf(this.#order);
  }

  compile(): WasmModule {
    let end = 16 + POOL_BYTES;
    const room = (bytes: number): number => {
      const at = end;
      end += bytes;
      return at;
    };
    const frame = new Map<Node, number>();
    for (const node of frameValues(this.roots)) frame.set(node, room(widthOf(node.type) * 16));
    const inputs = new Map<PixelInput, number>();
    for (const node of this.#order)
      if (node.kind === 'input' && !inputs.has(node.payload))
        inputs.set(node.payload, room(widthOf(PIXEL_INPUTS[node.payload]) * this.#plane));
    const outputs = this.roots.map((root) => room(widthOf(root.type) * this.#plane));
    const slots = new Map<string, ImageSlot>();
    for (const node of this.#order) if (node.kind === 'sample') slots.set(node.payload.name, node.payload);
    for (const slot of slots.values()) this.#images.push({ slot, header: room(HEADER_BYTES) });

    this.#frame = frame;
    const run = this.#run(frame, inputs, outputs);
    this.#functions.push(run);
    return {
      bytes: encodeModule(this.#functions),
      layout: { frame, inputs, outputs, images: this.#images, constants: this.#pool.entries(), end },
      roots: this.roots,
    };
  }

  /** run(bytes): for each offset up to `bytes`, in steps of four pixels, computes and stores all roots. */
  #run(frame: ReadonlyMap<Node, number>, inputs: ReadonlyMap<PixelInput, number>, outputs: readonly number[]): Code {
    const code = new Code([I32], [], this.#pool);
    const offset = code.local(I32);
    const values = new Map<Node, number[]>();
    for (const [node, at] of frame) {
      values.set(
        node,
        Array.from({ length: widthOf(node.type) }, (_, i) => {
          const local = code.local(V128);
          code
            .i32(at + i * 16)
            .memory('v128.load', 0)
            .set(local);
          return local;
        }),
      );
    }
    code.loop();
    for (const node of this.#order) {
      if (node.kind !== 'input') continue;
      const at = inputs.get(node.payload) ?? 0;
      values.set(
        node,
        Array.from({ length: widthOf(node.type) }, (_, i) => {
          const local = code.local(V128);
          code
            .get(offset)
            .memory('v128.load', at + i * this.#plane)
            .set(local);
          return local;
        }),
      );
    }
    this.#write(code, this.#order, values);
    const cleared = code.local(V128);
    this.roots.forEach((root, r) => {
      for (let i = 0; i < widthOf(root.type); i++) {
        code.get(offset);
        this.#push(code, root, i, values);
        if (scalarOf(root.type) === 'f') clearNotFinite(code, cleared);
        else writeConversion(code, scalarOf(root.type), 'f');
        code.memory('v128.store', (outputs[r] ?? 0) + i * this.#plane);
      }
    });
    code.nextFour(offset, 0);
    return code;
  }

  /** Computes the nodes of an order that `values` does not hold yet, each component into a local. */
  #write(code: Code, order: readonly Node[], values: Map<Node, number[]>): void {
    for (const node of order) {
      if (values.has(node) || node.kind === 'constant' || node.kind === 'parameter') continue;
      // What is per frame and not asked for by a pixel stays outside.
      if (node.frequency === 'frame') continue;
      values.set(node, this.#locals(code, node, values));
    }
  }

  #locals(code: Code, node: Node, values: Map<Node, number[]>): number[] {
    const width = widthOf(node.type);
    const into = (): number[] => {
      const locals: number[] = [];
      for (let i = 0; i < width; i++) locals.push(code.local(V128));
      // Results lie on the stack, the last on top.
      for (let i = width - 1; i >= 0; i--) code.set(locals[i]!);
      return locals;
    };
    const operandsOf = (i: number) => ({
      push: (index: number): void => {
        this.#push(code, node.args[index]!, i, values);
      },
      constant: (index: number): number | undefined => {
        const arg = node.args[index];
        return arg?.kind === 'constant' ? arg.payload[arg.payload.length === 1 ? 0 : i] : undefined;
      },
    });
    switch (node.kind) {
      case 'swizzle': {
        const of = node.args[0]!;
        const known = values.get(of);
        // No instruction: the same locals in another order.
        if (known) return node.payload.map((i) => known[i]!);
        return node.payload.map((i) => {
          this.#push(code, of, i, values);
          const local = code.local(V128);
          code.set(local);
          return local;
        });
      }
      case 'vec':
        return node.args.flatMap((arg) => {
          const known = values.get(arg);
          if (known) return known;
          return Array.from({ length: widthOf(arg.type) }, (_, i) => {
            this.#push(code, arg, i, values);
            const local = code.local(V128);
            code.set(local);
            return local;
          });
        });
      case 'dot': {
        const [a, b] = node.args;
        for (let i = 0; i < widthOf(a!.type); i++) {
          this.#push(code, a!, i, values);
          this.#push(code, b!, i, values);
          code.simd('f32x4.mul');
          if (i > 0) code.simd('f32x4.add');
        }
        return into();
      }
      case 'convert':
        for (let i = 0; i < width; i++) {
          this.#push(code, node.args[0]!, i, values);
          writeConversion(code, scalarOf(node.args[0]!.type), node.payload);
        }
        return into();
      case 'shl':
      case 'shr':
        for (let i = 0; i < width; i++) {
          this.#push(code, node.args[0]!, i, values);
          const right = scalarOf(node.type) === 'u' ? 'i32x4.shr_u' : 'i32x4.shr_s';
          code.i32(node.payload).simd(node.kind === 'shl' ? 'i32x4.shl' : right);
        }
        return into();
      case 'derivative':
        for (let i = 0; i < width; i++) code.float(0);
        return into();
      case 'sample':
        for (const i of [0, 1]) this.#push(code, node.args[0]!, i, values);
        code.call(this.#reader(node.payload));
        return into();
      case 'call': {
        const invariantArgs = this.#invariantArgs.get(node.payload) ?? [];
        node.args.forEach((arg, p) => {
          if (!invariantArgs[p]) for (let i = 0; i < widthOf(arg.type); i++) this.#push(code, arg, i, values);
        });
        code.call(this.#function(node.payload));
        return into();
      }
      case 'constant':
      case 'input':
      case 'uniform':
      case 'parameter':
        throw new Error(`${node.kind} is no computation`);
      default: {
        const how = INSTRUCTIONS[node.kind];
        const scalar = instructionScalar(node.kind, node.type, node.args[0]?.type);
        for (let i = 0; i < width; i++) {
          const operands = operandsOf(i);
          if ('series' in how) {
            node.args.forEach((_, index) => {
              operands.push(index);
            });
            code.call(this.#legal(node.kind, node.args.length, how.series));
          } else how(code, operands, scalar);
        }
        return into();
      }
    }
  }

  /** Pushes one component of a node; a narrow one stands for all. */
  #push(code: Code, node: Node, component: number, values: ReadonlyMap<Node, number[]>): void {
    const i = widthOf(node.type) === 1 ? 0 : component;
    if (node.kind === 'constant') {
      const value = node.payload[i] ?? 0;
      const scalar = scalarOf(node.type);
      if (scalar === 'f') code.float(value);
      else code.integer(scalar === 'b' ? (value === 0 ? 0 : -1) : value);
      return;
    }
    const local = values.get(node)?.[i];
    if (local === undefined) throw new Error(`no value of ${node.kind} of ${node.type}`);
    code.get(local);
  }

  #reader(slot: ImageSlot): number {
    const known = this.#bySlot.get(slot.name);
    if (known !== undefined) return known;
    this.#functions.push(readFunction(slot, this.#images.find((i) => i.slot.name === slot.name)?.header ?? 0));
    this.#bySlot.set(slot.name, this.#functions.length - 1);
    return this.#functions.length - 1;
  }

  #function(fn: IrFunction): number {
    const known = this.#byFunction.get(fn);
    if (known !== undefined) return known;
    const index = this.#body(
      fn.parameters.map((p) => p.type),
      fn.result,
      this.#invariantArgs.get(fn),
    );
    this.#byFunction.set(fn, index);
    return index;
  }

  /**
   * A function that returns the components of a result; parameters that are invariant are read from memory, not passed.
   */
  #body(parameters: readonly IrType[], result: Node, invariantArgs: readonly (Node | undefined)[] = []): number {
    const passed = parameters.map((type, p) => (invariantArgs[p] ? 0 : widthOf(type)));
    const vectors = (count: number): ValType[] => Array.from({ length: count }, () => V128);
    const code = new Code(
      vectors(passed.reduce<number>((n, width) => n + width, 0)),
      vectors(widthOf(result.type)),
      this.#pool,
    );
    const values = new Map<Node, number[]>();
    const order = inOrder([result]);
    for (const node of order) {
      if (node.kind !== 'parameter') continue;
      const start = passed.slice(0, node.payload).reduce<number>((n, width) => n + width, 0);
      const known = invariantArgs[node.payload];
      values.set(
        node,
        Array.from({ length: widthOf(node.type) }, (_, i) => {
          if (!known) return start + i;
          const local = code.local(V128);
          if (known.kind === 'constant') this.#push(code, known, i, values);
          else code.i32((this.#frame.get(known) ?? 0) + i * 16).memory('v128.load', 0);
          code.set(local);
          return local;
        }),
      );
    }
    this.#write(code, order, values);
    for (let i = 0; i < widthOf(result.type); i++) this.#push(code, result, i, values);
    this.#functions.push(code);
    return this.#functions.length - 1;
  }

  #legal(kind: Kind, count: number, build: (b: Builder, ...args: Node[]) => Node): number {
    const known = this.#byKind.get(kind);
    if (known !== undefined) return known;
    const parameters = Array.from({ length: count }, (_, i) => this.#helpers.node('parameter', 'f1', [], i));
    const index = this.#body(
      parameters.map(() => 'f1' as const),
      build(this.#helpers, ...parameters),
    );
    this.#byKind.set(kind, index);
    return index;
  }
}

/**
 * What each function is called with: for a parameter that all calls give the same constant or per-frame
 * value, that node. Passing it four pixels after four pixels would cost more than reading it where it is used.
 */
function invariantArgumentsOf(order: readonly Node[]): Map<IrFunction, readonly (Node | undefined)[]> {
  const invariantArgs = new Map<IrFunction, (Node | undefined)[]>();
  const visit = (nodes: readonly Node[]): void => {
    for (const node of nodes) {
      if (node.kind !== 'call') continue;
      const known = invariantArgs.get(node.payload);
      if (known) known.forEach((arg, p) => (known[p] = arg === node.args[p] ? arg : undefined));
      else {
        invariantArgs.set(
          node.payload,
          node.args.map((arg) => (arg.frequency === 'pixel' ? undefined : arg)),
        );
        visit(inOrder([node.payload.result]));
      }
    }
  };
  visit(order);
  return invariantArgs;
}
