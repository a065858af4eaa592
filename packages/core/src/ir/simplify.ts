import type { Builder } from './builder.ts';
import { widthOf, type IrType, type Kind, type Node, type Payloads } from './node.ts';

const isAll = (node: Node | undefined, value: number): boolean =>
  node?.kind === 'constant' && node.payload.every((v) => v === value);

/**
 * An existing or smaller node that is equal to the one asked for, or undefined. Rules hold for
 * finite numbers, the only ones a program can make.
 */
export function simplified<K extends Kind>(
  b: Builder,
  kind: K,
  type: IrType,
  args: readonly Node[],
  payload: Payloads[K],
): Node | undefined {
  const folded = b.fold(kind, type, args, payload);
  if (folded) return folded;
  const [x, y, z] = args;
  const wide = (node: Node | undefined): Node | undefined =>
    node && widthOf(node.type) === widthOf(type) ? node : node && b.splat(node, widthOf(type));
  switch (kind) {
    case 'add':
      if (isAll(x, 0)) return wide(y);
      if (isAll(y, 0)) return wide(x);
      if (y?.kind === 'neg' && x) return b.sub(x, y.args[0]!);
      return undefined;
    case 'sub':
      if (isAll(y, 0)) return wide(x);
      if (isAll(x, 0) && y) return wide(b.neg(y));
      if (y?.kind === 'neg' && x) return b.add(x, y.args[0]!);
      return x === y ? b.zero(type) : undefined;
    case 'mul':
      if (isAll(x, 1)) return wide(y);
      if (isAll(y, 1)) return wide(x);
      if (isAll(x, 0) || isAll(y, 0)) return b.zero(type);
      if (isAll(y, -1) && x) return wide(b.neg(x));
      if (isAll(x, -1) && y) return wide(b.neg(y));
      return undefined;
    case 'div':
      return isAll(y, 1) ? wide(x) : isAll(x, 0) ? b.zero(type) : undefined;
    case 'pow':
      return undefined;
    case 'neg':
      return x?.kind === 'neg' ? x.args[0] : undefined;
    case 'fract':
      return x?.kind === 'fract' ? x : undefined;
    case 'floor':
    case 'abs':
      return x?.kind === kind ? x : undefined;
    case 'not':
      return x?.kind === 'not' ? x.args[0] : undefined;
    case 'select':
      if (isAll(x, 1)) return wide(y);
      if (isAll(x, 0)) return wide(z);
      return y === z ? wide(y) : undefined;
    case 'mix':
      if (isAll(z, 0)) return wide(x);
      if (isAll(z, 1)) return wide(y);
      return x === y ? wide(x) : undefined;
    case 'swizzle':
      return simplifiedSwizzle(b, x!, payload as readonly number[]);
    case 'vec':
      return simplifiedVec(b, type, args);
    default:
      return undefined;
  }
}

function simplifiedSwizzle(b: Builder, of: Node, indices: readonly number[]): Node | undefined {
  if (indices.length === widthOf(of.type) && indices.every((n, i) => n === i)) return of;
  if (of.kind === 'swizzle') return b.swizzle(of.args[0]!, ...indices.map((i) => of.payload[i] ?? 0));
  if (of.kind !== 'vec') return undefined;
  const parts = of.args.flatMap((a) =>
    widthOf(a.type) === 1 ? [{ a, i: 0 }] : Array.from({ length: widthOf(a.type) }, (_, i) => ({ a, i })),
  );
  const taken = indices.map((i) => parts[i]).filter((p) => p !== undefined);
  const [first] = taken;
  if (first && taken.every((p) => p.a === first.a) && widthOf(first.a.type) > 1)
    return b.swizzle(first.a, ...taken.map((p) => p.i));
  if (!taken.every((p) => widthOf(p.a.type) === 1)) return undefined;
  return taken.length === 1 ? first?.a : b.vec(...taken.map((p) => p.a));
}

/** vec(a.x, a.y) is a; nested vecs flatten. */
function simplifiedVec(b: Builder, type: IrType, args: readonly Node[]): Node | undefined {
  if (args.length === 1) return args[0];
  if (args.some((a) => a.kind === 'vec')) return b.vec(...args.flatMap((a) => (a.kind === 'vec' ? a.args : [a])));
  const [first] = args;
  if (first?.kind !== 'swizzle') return undefined;
  const of = first.args[0];
  const indices = args.flatMap((a) => (a.kind === 'swizzle' && a.args[0] === of ? a.payload : [NaN]));
  return of && indices.length === widthOf(type) && !indices.some(Number.isNaN) ? b.swizzle(of, ...indices) : undefined;
}
