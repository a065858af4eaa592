import {
  inOrder,
  scalarOf,
  widthOf,
  type IrFunction,
  type Kind,
  type Node,
  type NodeKind,
  type Scalar,
} from '../../ir/node.ts';
import { Names } from '../names.ts';
import type { Components, Express, HostDialect, Term } from './dialect.ts';

/** What a function's statements are written from. */
export interface BodyOf {
  readonly roots: readonly Node[];
  readonly names: Names;
  /** Components of what is not computed here. */
  readonly given: (node: Node) => readonly Term[] | undefined;
  /** What a local is called. */
  readonly called?: (node: Node) => string | undefined;
}

interface Line {
  readonly text: string;
  /** What it declares. */
  readonly name: string;
}

export const atom = (text: string): Term => ({ text, level: 4 });
/** An operand where what is around it binds with `level`. */
export const within = ({ text, level }: Term, around: number): string => (level < around ? `(${text})` : text);

const WORD = /[A-Za-z_]\w*/g;

/** Writes functions of a host language, and the helpers and functions that they call. */
export class HostWriter {
  readonly globals: Names;
  readonly #helperNames = new Map<string, string>();
  readonly #used = new Set<string>();
  readonly #callees = new Map<IrFunction, string>();
  readonly #functions: string[] = [];

  /** All that is declared begins with `prefix` and `_`, where it is not empty. */
  constructor(
    readonly dialect: HostDialect,
    readonly prefix: string,
  ) {
    this.globals = new Names(dialect.reserved);
    for (const helper of Object.keys(dialect.helpers)) this.#helperNames.set(helper, this.take(helper));
  }

  /** A name for something outside functions. */
  take(name: string): string {
    return this.globals.take(this.prefix === '' ? name : `${this.prefix}_${name}`);
  }

  /** Helpers that were called, in the dialect's order, then functions. */
  declarations(): string[] {
    const helpers = Object.entries(this.dialect.helpers)
      .filter(([name]) => this.#used.has(name))
      .map(([, code]) => code.replace(/\bNAME_(\w+)/g, (_, other: string) => this.#helperNames.get(other) ?? other));
    return [...helpers, ...this.#functions];
  }

  #helper(name: string): string {
    if (!this.#used.has(name)) {
      this.#used.add(name);
      for (const [, other] of (this.dialect.helpers[name] ?? '').matchAll(/\bNAME_(\w+)/g)) this.#helper(other!);
    }
    return this.#helperNames.get(name)!;
  }

  #function(fn: IrFunction): string {
    const known = this.#callees.get(fn);
    if (known !== undefined) return known;
    const name = this.take(fn.name);
    this.#callees.set(fn, name);
    const names = this.globals.within();
    const parameters = fn.parameters.map(({ name: wanted, type }) => ({
      type,
      parts: componentNames(names.take(wanted), widthOf(type)),
    }));
    const { lines, results } = this.body({
      roots: [fn.result],
      names,
      given: (node) => (node.kind === 'parameter' ? parameters[node.payload]?.parts.map(atom) : undefined),
    });
    const code = this.dialect.function(
      name,
      fn.result.type,
      parameters.flatMap(({ type, parts }) => parts.map((part) => ({ name: part, scalar: scalarOf(type) }))),
      lines,
      results[0]!.map((t) => t.text),
    );
    this.#functions.push(`${this.dialect.comment(fn.about)}\n${code}`);
    return name;
  }

  /** The statements that compute the roots, and the roots' components. */
  body({ roots, names, given, called = () => undefined }: BodyOf): { lines: string[]; results: Term[][] } {
    const known = new Map<Node, readonly Term[]>();
    const order = inOrder(roots);
    for (const node of order) {
      const terms = given(node);
      if (terms) known.set(node, terms);
    }
    const needed = new Set<Node>(roots);
    for (const node of [...order].reverse())
      if (needed.has(node) && !known.has(node)) for (const arg of node.args) needed.add(arg);
    const uses = new Map<Node, number>();
    for (const node of needed)
      if (!known.has(node)) for (const arg of node.args) uses.set(arg, (uses.get(arg) ?? 0) + 1);
    const lines: Line[] = [];
    let local = 0;
    for (const node of order) {
      if (!needed.has(node) || known.has(node)) continue;
      const args = node.args.map((a) => known.get(a)!);
      const name = called(node);
      if (node.kind === 'call') {
        known.set(node, this.#call(node, args, names.take(name ?? `t${String(++local)}`), lines));
        continue;
      }
      const terms = Array.from({ length: widthOf(node.type) }, (_, i) => this.#component(node, args, i));
      const moves = node.kind === 'constant' || node.kind === 'vec' || node.kind === 'swizzle';
      const keep =
        !moves && (name !== undefined || (uses.get(node) ?? 0) > 1 || terms.some((t) => t.text.length > 120));
      if (!keep) {
        known.set(node, terms);
        continue;
      }
      const parts = componentNames(names.take(name ?? `t${String(++local)}`), terms.length);
      parts.forEach((part, i) =>
        lines.push({ name: part, text: this.dialect.local(scalarOf(node.type), part, terms[i]!.text) }),
      );
      known.set(node, parts.map(atom));
    }
    const results = roots.map((root) => [...known.get(root)!]);
    // Components that nobody reads are left out: compilers complain of them.
    const read = new Set(results.flat().flatMap((t) => t.text.match(WORD) ?? []));
    const kept = lines.reverse().filter(({ name, text }) => {
      if (!read.has(name)) return false;
      for (const word of text.match(WORD) ?? []) read.add(word);
      return true;
    });
    return { lines: kept.reverse().map((l) => l.text), results };
  }

  #call(node: NodeKind<'call'>, args: readonly (readonly Term[])[], name: string, lines: Line[]): Term[] {
    const callee = this.#function(node.payload);
    const texts = args.flat().map((t) => t.text);
    const width = widthOf(node.type);
    if (width === 1) {
      lines.push({ name, text: this.dialect.local(scalarOf(node.type), name, `${callee}(${texts.join(', ')})`) });
      return [atom(name)];
    }
    lines.push({ name, text: this.dialect.callInto(name, node.type, callee, texts) });
    return Array.from({ length: width }, (_, i) => atom(`${name}[${String(i)}]`));
  }

  #component(node: Node, args: readonly (readonly Term[])[], i: number): Term {
    const of = (k: number, j: number): Term => args[k]![args[k]!.length === 1 ? 0 : j]!;
    switch (node.kind) {
      case 'constant':
        return this.dialect.literal(scalarOf(node.type), node.payload[i] ?? 0);
      case 'vec':
        return args.flat()[i]!;
      case 'swizzle':
        return of(0, node.payload[i] ?? 0);
      case 'dot':
        return {
          text: args[0]!.map((a, k) => `${within(a, 2)} * ${within(of(1, k), 3)}`).join(' + '),
          level: 1,
        };
      case 'uniform':
      case 'parameter':
      case 'input':
      case 'sample':
      case 'derivative':
      case 'call':
        throw new Error(`A value of the frame reads '${node.kind}', which it cannot.`);
      default: {
        const from: Scalar = scalarOf(node.args[0]?.type ?? node.type);
        const express = this.dialect.expressions[node.kind] as unknown as Express<Kind>;
        const terms = node.args.map((_, k) => of(k, i)) as unknown as Components;
        return express(node, terms, { helper: (name) => this.#helper(name), from });
      }
    }
  }
}

/** Names of a value's components. */
export const componentNames = (name: string, width: number): string[] =>
  width === 1 ? [name] : Array.from({ length: width }, (_, i) => `${name}_${'xyzw'[i]!}`);
