import type { Kind } from '../ir/node.ts';
import { inTurns, isZero, negated, product, same, sum, ZERO, type Exact } from './exact.ts';

/** What the move of one component needs of its operands, by their place. */
export interface Moving {
  readonly isWhole: (x: Exact) => boolean;
  /** Of a `mod`: whether a change is a whole number of its periods. */
  readonly isTakenUp: (x: Exact) => boolean;
  /** What an operand is worth. */
  readonly exactly: (index: number) => Exact;
  /** A change divided by what an operand is worth. */
  readonly divided: (x: Exact, index: number) => Exact | undefined;
}
/**
 * The change of one component from those of its operands, all known and not all zero; undefined where it cannot be
 * told.
 */
type Move = (of: Moving, changes: readonly [Exact, Exact, Exact]) => Exact | undefined;

const unknown: Move = () => undefined;
/** Moves by whole numbers only with what is whole. */
const stepped: Move = ({ isWhole }, [x]) => (isWhole(x) ? x : undefined);
/** Radians that are whole turns, 2 pi once in each term, come back to the same. */
const turning: Move = ({ isWhole }, [x]) => {
  const turns = inTurns(x);
  return turns && isWhole(turns) ? ZERO : undefined;
};
/** Followed by `Shifts` itself, as whole values. */
const followed = unknown;

/** How each kind passes a change on. */
export const MOVES: Readonly<Record<Kind, Move>> = {
  constant: followed,
  input: followed,
  uniform: followed,
  parameter: followed,
  vec: followed,
  swizzle: followed,
  derivative: followed,
  sample: followed,
  call: followed,
  neg: (_, [x]) => negated(x),
  abs: unknown,
  floor: stepped,
  ceil: stepped,
  fract: ({ isWhole }, [x]) => (isWhole(x) ? ZERO : undefined),
  sign: unknown,
  sqrt: unknown,
  exp: unknown,
  log: unknown,
  sin: turning,
  cos: turning,
  not: unknown,
  add: (_, [x, y]) => sum(x, y),
  sub: (_, [x, y]) => sum(x, negated(y)),
  mul: ({ exactly }, [x, y]) => (isZero(y) ? product(x, exactly(1)) : isZero(x) ? product(exactly(0), y) : undefined),
  div: ({ divided }, [x, y]) => (isZero(y) ? divided(x, 1) : undefined),
  mod: ({ isTakenUp }, [x, ...rest]) => (rest.every(isZero) && isTakenUp(x) ? ZERO : undefined),
  min: unknown,
  max: unknown,
  pow: unknown,
  atan2: unknown,
  and: unknown,
  or: unknown,
  xor: unknown,
  shl: unknown,
  shr: unknown,
  lt: unknown,
  le: unknown,
  eq: unknown,
  // Either side may be taken: both must move alike.
  select: (_, [x, y, z]) => (isZero(x) && same(y, z) ? y : undefined),
  mix: ({ exactly }, [x, y, z]) => {
    const difference = isZero(z) ? sum(y, negated(x)) : undefined;
    const part = difference && product(difference, exactly(2));
    return part && sum(x, part);
  },
  clamp: unknown,
  dot: followed,
  convert: unknown,
  bitcast: unknown,
};
