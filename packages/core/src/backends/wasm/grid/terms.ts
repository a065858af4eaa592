import { MOST_TEXELS } from '../../../image/pixels.ts';
import { Builder } from '../../../ir/builder.ts';
import { FAR } from '../../../ir/evaluate.ts';
import {
  inOrder,
  scalarOf,
  widthOf,
  type ImageSlot,
  type Kind,
  type Node,
  type PixelInput,
  type Scalar,
} from '../../../ir/node.ts';
import { INSTRUCTIONS } from '../instructions.ts';

/**
 * Pass 1: values taken apart into components, calls put in place of what they call, each component once (hash-consing,
 * as in A. P. Ershov, "On programming of arithmetic operations", 1958): octaves of one noise share what they share.
 */

/** Which of a pixel's coordinates a term hangs on: bit 0 is u, bit 1 is v. */
export type Rate = 0 | 1 | 2 | 3;
/** The same over a frame, a column, a row; and what differs from pixel to pixel. */
export const RATES = { frame: 0, column: 1, row: 2, pixel: 3 } as const satisfies Record<string, Rate>;

/** Kinds that a component is computed by, and what it begins with. */
export type TermOp =
  | Exclude<Kind, 'vec' | 'swizzle' | 'dot' | 'call' | 'parameter' | 'uniform' | 'derivative'>
  | 'frame'
  | 'size'
  | 'lane';

/** One component of a value. */
export interface Term {
  readonly id: number;
  readonly op: TermOp;
  readonly type: Scalar;
  readonly args: readonly Term[];
  /** A constant's value; a frame value's component; a coordinate's or a texel's; by how much bits are shifted; see SIZES. */
  readonly payload: number;
  readonly rate: Rate;
  /** Whether it hangs on the moment, and not on dials and places alone. */
  readonly moves: boolean;
  /** Of a frame value, its node. */
  readonly node?: Node;
  /** Of an image that is read, or whose size it is. */
  readonly slot?: ImageSlot;
  /** Scalar kind before a conversion. */
  readonly from?: Scalar;
}

/** Of an image: how many texels it has, and its inverse. */
export const SIZES = { width: 0, height: 1, perWidth: 2, perHeight: 3 } as const;

/** Terms beyond which a program is not taken apart. */
const TERM_LIMIT = 24_000;

export class TooManyTerms extends Error {}

/** What is not given on a flat grid, component by component: see `pixelInput`. */
const FLAT: Readonly<Partial<Record<PixelInput, readonly number[]>>> = {
  vertex_color: [1, 1, 1, 1],
  facing: [1],
  depth_behind: [FAR],
};

export class Terms {
  readonly #known = new Map<string, Term>();
  readonly #series = new Builder();
  readonly #bodies = new Map<Kind, { readonly result: Node }>();
  readonly #memo = new Map<Node, readonly Term[]>();
  /** Whether nodes hang on the moment. */
  readonly #moving = new Map<Node, boolean>();
  readonly #looked = new Set<Node>();
  count = 0;

  /** Without rates everything but what is the same over a frame is a pixel's own. */
  constructor(readonly withRates = true) {}

  /** The components of a value. Throws TooManyTerms. */
  of(root: Node): readonly Term[] {
    return this.#lower(root, undefined, this.#memo);
  }

  constant(type: Scalar, value: number): Term {
    return this.#make('constant', type, [], value, { rate: RATES.frame });
  }

  /** Bytes from the start of a table to the entry of a cell, of `bytes` each; `across` is how many stand in a row. */
  address([i, j]: readonly [Term, Term?], across: number, bytes: number): Term {
    const place = j ? this.#make('add', 'f', [this.#make('mul', 'f', [j, this.constant('f', across)]), i]) : i;
    const whole = this.#make('convert', 'i', [place], 0, { from: 'f' });
    return this.#make('mul', 'i', [whole, this.constant('i', bytes)]);
  }

  #isMoving(root: Node): boolean {
    for (const node of inOrder([root], this.#looked))
      this.#moving.set(
        node,
        node.kind === 'uniform' ? node.payload === 'time' : node.args.some((arg) => this.#moving.get(arg)!),
      );
    return this.#moving.get(root)!;
  }

  #make(
    op: TermOp,
    type: Scalar,
    args: readonly Term[],
    payload = 0,
    more: { readonly rate?: Rate; readonly node?: Node; readonly slot?: ImageSlot; readonly from?: Scalar } = {},
  ): Term {
    const value = Object.is(payload, -0) ? '-0' : String(payload);
    const key = `${op}|${type}|${args.map((a) => a.id).join()}|${value}|${String(more.node?.id ?? '')}|${more.slot?.name ?? ''}|${more.from ?? ''}`;
    const known = this.#known.get(key);
    if (known) return known;
    if (this.count >= TERM_LIMIT) throw new TooManyTerms();
    const rate = more.rate ?? (args.reduce<number>((all, a) => all | a.rate, 0) as Rate);
    const moves = more.node ? this.#isMoving(more.node) : args.some((a) => a.moves);
    const made: Term = { ...more, id: this.count++, op, type, args, payload, rate, moves };
    this.#known.set(key, made);
    return made;
  }

  #lower(
    root: Node,
    given: readonly (readonly Term[])[] | undefined,
    memo: Map<Node, readonly Term[]>,
  ): readonly Term[] {
    for (const node of inOrder([root], new Set(memo.keys())))
      if (!memo.has(node)) memo.set(node, this.#components(node, given, memo));
    return memo.get(root)!;
  }

  #components(
    node: Node,
    given: readonly (readonly Term[])[] | undefined,
    memo: Map<Node, readonly Term[]>,
  ): readonly Term[] {
    const type = scalarOf(node.type);
    const part = (index: number, component: number): Term => {
      const all = memo.get(node.args[index]!)!;
      return all[all.length === 1 ? 0 : component]!;
    };
    const each = (of: (component: number) => Term): Term[] =>
      Array.from({ length: widthOf(node.type) }, (_, c) => of(c));
    // What is the same over a frame comes from the host, in float64 rounded once; within functions it is computed here.
    if (given === undefined && node.frequency === 'frame')
      return each((c) => this.#make('frame', type, [], c, { rate: RATES.frame, node }));
    switch (node.kind) {
      case 'constant':
        return each((c) => this.constant(type, node.payload[node.payload.length === 1 ? 0 : c] ?? 0));
      case 'parameter':
        return given![node.payload]!;
      case 'input':
        return this.#input(node.payload);
      case 'swizzle':
        return node.payload.map((i) => memo.get(node.args[0]!)![i]!);
      case 'vec':
        return node.args.flatMap((arg) => [...memo.get(arg)!]);
      case 'dot': {
        const products = Array.from({ length: widthOf(node.args[0]!.type) }, (_, c) =>
          this.#make('mul', 'f', [part(0, c), part(1, c)]),
        );
        return [products.reduce((sum, product) => this.#make('add', 'f', [sum, product]))];
      }
      case 'convert': {
        const from = scalarOf(node.args[0]!.type);
        return each((c) => this.#make('convert', node.payload, [part(0, c)], 0, { from }));
      }
      case 'shl':
      case 'shr':
        return each((c) => this.#make(node.kind, type, [part(0, c)], node.payload));
      case 'derivative':
        return each(() => this.constant('f', 0));
      case 'sample': {
        const read = this.#make('sample', 'f', this.texels(node.payload, part(0, 0), part(0, 1)), 0, {
          slot: node.payload,
        });
        return each((c) => this.#make('lane', 'f', [read], c));
      }
      case 'call':
        return this.#lower(
          node.payload.result,
          node.args.map((arg) => memo.get(arg)!),
          new Map(),
        );
      case 'uniform':
        throw new Error('a uniform is no value of a pixel');
      default: {
        const how = INSTRUCTIONS[node.kind];
        if ('series' in how) {
          const body = this.#bodyOf(node.kind, node.args.length, how.series);
          return each(
            (c) =>
              this.#lower(
                body,
                node.args.map((_, i) => [part(i, c)]),
                new Map(),
              )[0]!,
          );
        }
        return each((c) =>
          this.#operation(
            node.kind,
            type,
            node.args.map((_, i) => part(i, c)),
          ),
        );
      }
    }
  }

  /**
   * Which texels are read at a place, as `gather` asks for them: each axis by itself, so that what hangs on a row or a column
   * alone is computed once for it.
   */
  texels(slot: ImageSlot, u: Term, v: Term): Term[] {
    const across = this.#alongAxis(slot, 'width', u);
    const down = this.#alongAxis(slot, 'height', v);
    const width = this.#size(slot, 'width');
    const rows = down.indices.map((index) => this.#make('mul', 'f', [index, width]));
    return [...across.indices, ...across.within, ...rows, ...down.within];
  }

  #size(slot: ImageSlot, which: keyof typeof SIZES): Term {
    return this.#make('size', 'f', [], SIZES[which], { slot, rate: RATES.frame });
  }

  /** The texels that lie around a coordinate, wrapped as the slot says, and how far it is between them where it is filtered. */
  #alongAxis(slot: ImageSlot, axis: 'width' | 'height', at: Term): { indices: Term[]; within: Term[] } {
    const f = (op: TermOp, ...args: Term[]): Term => this.#make(op, 'f', args);
    const n = (value: number): Term => this.constant('f', value);
    const least = (a: Term, b: Term): Term => this.#make('lt', 'b', [a, b]);
    const atMost = (a: Term, b: Term): Term => this.#make('le', 'b', [a, b]);
    const size = this.#size(slot, axis);
    const scaled = f('mul', at, size);
    // 0 where it is not finite, or too large to tell texels apart: what follows is exact.
    const held = f('select', atMost(f('abs', scaled), n(MOST_TEXELS)), scaled, n(0));
    const place = slot.filter === 'linear' ? f('sub', held, n(0.5)) : held;
    const low = f('floor', place);
    const within = slot.filter === 'linear' ? [f('sub', place, low)] : [];
    if (slot.wrap === 'clamp') {
      const inside = (index: Term): Term => f('min', f('max', index, n(0)), f('sub', size, n(1)));
      return { indices: [inside(low), ...within.map(() => inside(f('add', low, n(1))))], within };
    }
    const inverse = this.#size(slot, axis === 'width' ? 'perWidth' : 'perHeight');
    const isMirrored = slot.wrap === 'mirror';
    const period = isMirrored ? f('mul', size, n(2)) : size;
    const turns = f('floor', f('mul', low, isMirrored ? f('mul', inverse, n(0.5)) : inverse));
    // A quotient that is rounded over a whole number is one period off.
    const near = f('sub', low, f('mul', period, turns));
    const above = f('add', near, f('select', least(near, n(0)), period, n(0)));
    const first = f('sub', above, f('select', atMost(period, above), period, n(0)));
    const following = f('add', first, n(1));
    const both = [first, ...within.map(() => f('select', least(following, period), following, n(0)))];
    const folded = (index: Term): Term =>
      f('select', least(index, size), index, f('sub', f('sub', period, n(1)), index));
    return { indices: isMirrored ? both.map(folded) : both, within };
  }

  #bodyOf(kind: Kind, count: number, build: (b: Builder, ...args: Node[]) => Node): Node {
    let body = this.#bodies.get(kind);
    if (!body) {
      const parameters = Array.from({ length: count }, (_, i) => this.#series.node('parameter', 'f1', [], i));
      this.#bodies.set(kind, (body = { result: build(this.#series, ...parameters) }));
    }
    return body.result;
  }

  /** A pixel's own place. */
  place(): readonly [Term, Term] {
    const u = this.#make('input', 'f', [], 0, { rate: this.withRates ? RATES.column : RATES.pixel });
    const v = this.#make('input', 'f', [], 1, { rate: this.withRates ? RATES.row : RATES.pixel });
    return [u, v];
  }

  #input(name: PixelInput): readonly Term[] {
    const [u, v] = this.place();
    const flat = FLAT[name];
    if (flat) return flat.map((value) => this.constant('f', value));
    if (name !== 'position' && name !== 'world') return [u, v];
    const half = this.constant('f', 0.5);
    return [this.#make('sub', 'f', [u, half]), this.#make('sub', 'f', [half, v]), this.constant('f', 0)];
  }

  #operation(op: TermOp, type: Scalar, args: readonly Term[]): Term {
    if (op === 'bitcast') return this.#make('bitcast', type, args);
    return op === 'xor' && type !== 'b' ? this.#xor(type, args) : this.#make(op, type, args);
  }

  /** Bits in any order are the same bits: what hangs on less is put together first, so that hashes of rows are made once a row. */
  #xor(type: Scalar, args: readonly Term[]): Term {
    const leaves: Term[] = [];
    const flatten = (term: Term): void => {
      if (term.op === 'xor' && term.type === type) term.args.forEach(flatten);
      else leaves.push(term);
    };
    args.forEach(flatten);
    const join = (a: Term | undefined, b: Term | undefined): Term | undefined =>
      a && b ? this.#make('xor', type, [a, b]) : (a ?? b);
    const at = (rate: Rate): Term | undefined =>
      leaves
        .filter((leaf) => leaf.rate === rate)
        .sort((a, b) => a.id - b.id)
        .reduce<Term | undefined>(join, undefined);
    const [frame, column, row, pixel] = [at(0), at(1), at(2), at(3)];
    // What is the same over the frame goes with the row, else with the column.
    const [rowOwn, columnOwn, rest] = row
      ? [join(row, frame), column, pixel]
      : column
        ? [row, join(column, frame), pixel]
        : [row, column, join(pixel, frame)];
    return join(join(rest, columnOwn), rowOwn)!;
  }
}
