import type { Builder } from '../../ir/builder.ts';
import { inOrder, scalarOf, widthOf, type Node } from '../../ir/node.ts';

/** A value over the square that is u * uv.x + v * uv.y + c, each of them the same over a frame. */
export interface Plane {
  readonly u: Node;
  readonly v: Node;
  readonly c: Node;
}

/** Kinds that make each component from those of their operands alone, as sums and products do. */
const SPREAD = ['neg', 'add', 'sub', 'mul', 'div', 'mix'] as const;
type Spread = (typeof SPREAD)[number];
const isSpread = (kind: Node['kind']): kind is Spread => (SPREAD as readonly string[]).includes(kind);

const isNothing = (node: Node): boolean => node.kind === 'constant' && node.payload.every((v) => v === 0);
/** Whether it is the same all over the square. */
export const isFlat = ({ u, v }: Plane): boolean => isNothing(u) && isNothing(v);

/** Which values of a graph are planes over the square. */
export class Planes {
  readonly #known = new Map<Node, readonly Plane[] | undefined>();
  readonly #looked = new Set<Node>();
  readonly #parts = new Map<Node, readonly Node[]>();
  readonly #parted = new Set<Node>();

  constructor(readonly b: Builder) {}

  /** Its components as planes; undefined where one of them is none. */
  of(root: Node): readonly Plane[] | undefined {
    for (const node of inOrder([root], this.#looked)) this.#known.set(node, this.#planesOf(node));
    return this.#known.get(root);
  }

  /** A component of what is the same over a frame as a node of its own: of a sum the sum of the components. */
  part(of: Node, i: number): Node {
    for (const node of inOrder([of], this.#parted)) this.#parts.set(node, this.#partsOf(node));
    return this.#parts.get(of)![i]!;
  }

  #partsOf(node: Node): readonly Node[] {
    const { b } = this;
    const width = widthOf(node.type);
    if (width === 1) return [node];
    const args = node.args.map((arg) => this.#parts.get(arg)!);
    if (node.kind === 'vec') return args.flat();
    if (node.kind === 'swizzle') return node.payload.map((i) => args[0]![i]!);
    const { kind } = node;
    return Array.from({ length: width }, (_, i) =>
      isSpread(kind) ? b.map(kind, ...args.map((all) => all[all.length === 1 ? 0 : i]!)) : b.swizzle(node, i),
    );
  }

  #planesOf(node: Node): readonly Plane[] | undefined {
    if (scalarOf(node.type) !== 'f') return undefined;
    const { b } = this;
    const width = widthOf(node.type);
    const zero = b.number(0);
    if (node.frequency !== 'pixel')
      return Array.from({ length: width }, (_, i) => ({ u: zero, v: zero, c: this.part(node, i) }));
    if (node.kind === 'input' && node.payload === 'uv') {
      const one = b.number(1);
      return [
        { u: one, v: zero, c: zero },
        { u: zero, v: one, c: zero },
      ];
    }
    const args = node.args.map((arg) => this.#known.get(arg));
    if (node.kind === 'swizzle') return args[0] && node.payload.map((i) => args[0]![i]!);
    if (node.kind === 'vec') return args.includes(undefined) ? undefined : args.flatMap((planes) => planes!);
    const { kind } = node;
    if (!isSpread(kind) || args.includes(undefined)) return undefined;
    const planes = Array.from({ length: width }, (_, i) =>
      this.#combined(
        kind,
        args.map((all) => all![all!.length === 1 ? 0 : i]!),
      ),
    );
    return planes.includes(undefined) ? undefined : (planes as Plane[]);
  }

  #combined(kind: Spread, [x, y, z]: readonly Plane[]): Plane | undefined {
    const { b } = this;
    const each = (act: (part: 'u' | 'v' | 'c') => Node): Plane => ({ u: act('u'), v: act('v'), c: act('c') });
    switch (kind) {
      case 'neg':
        return each((part) => b.neg(x![part]));
      case 'add':
        return each((part) => b.add(x![part], y![part]));
      case 'sub':
        return each((part) => b.sub(x![part], y![part]));
      case 'mul':
        if (isFlat(y!)) return each((part) => b.mul(x![part], y!.c));
        return isFlat(x!) ? each((part) => b.mul(y![part], x!.c)) : undefined;
      case 'div':
        return isFlat(y!) ? each((part) => b.div(x![part], y!.c)) : undefined;
      case 'mix':
        return isFlat(z!) ? each((part) => b.mix(x![part], y![part], z!.c)) : undefined;
    }
  }
}
