import { scalarOf, type Kind, type Scalar } from '../../ir/node.ts';
import type { Code, SimdOp } from './encode.ts';
import { TRANSCENDENTAL, type Legal } from './transcendental.ts';

/** Pushes the operands, in order, that one component of a node takes. */
export interface Operands {
  readonly push: (index: number) => void;
  /** Value of an operand that is constant. */
  readonly constant: (index: number) => number | undefined;
}

/** Writes the instructions that leave one component of a kind's result, four pixels at a time, on the stack. */
type Write = (code: Code, args: Operands, scalar: Scalar) => void;
const write = (w: Write): Write => w;

/** Largest float below 1, as `fract` gives at most. */
const BELOW_ONE = 1 - 2 ** -24;

const simple =
  (float: SimdOp, signed: SimdOp = float, unsigned: SimdOp = signed, count = 2): Write =>
  (code, args, scalar) => {
    for (let i = 0; i < count; i++) args.push(i);
    code.simd(scalar === 'f' ? float : scalar === 'u' ? unsigned : signed);
  };

const one = (float: SimdOp, signed: SimdOp = float): Write => simple(float, signed, signed, 1);

/** a / b and kin are 0 where b is 0: what is on the stack, masked. */
const unlessZero = (code: Code, args: Operands, divisor: number): void => {
  const known = args.constant(divisor);
  if (known !== undefined && known !== 0) return;
  args.push(divisor);
  code.float(0).simd('f32x4.eq').simd('v128.andnot');
};

/** By a function of its own, made of kinds that have instructions. */
interface Series {
  readonly series: Legal;
}

/**
 * How each kind is computed: most component by component, by a few instructions; `compiled`, of whole values, by
 * `compile.ts`.
 */
export const INSTRUCTIONS = {
  constant: 'compiled',
  input: 'compiled',
  uniform: 'compiled',
  parameter: 'compiled',
  dot: 'compiled',
  vec: 'compiled',
  swizzle: 'compiled',
  convert: 'compiled',
  derivative: 'compiled',
  shl: 'compiled',
  shr: 'compiled',
  sample: 'compiled',
  call: 'compiled',
  ...TRANSCENDENTAL,
  neg: one('f32x4.neg', 'i32x4.neg'),
  abs: one('f32x4.abs', 'i32x4.abs'),
  floor: one('f32x4.floor'),
  ceil: one('f32x4.ceil'),
  fract: write((code, args) => {
    // In this order the lesser of the two is BELOW_ONE where the other is no number.
    code.float(BELOW_ONE);
    args.push(0);
    args.push(0);
    code.simd('f32x4.floor').simd('f32x4.sub').simd('f32x4.pmin');
  }),
  sign: write((code, args) => {
    code.float(0);
    args.push(0);
    code.simd('f32x4.lt').float(1).simd('v128.and');
    args.push(0);
    code.float(0).simd('f32x4.lt').float(1).simd('v128.and').simd('f32x4.sub');
  }),
  sqrt: write((code, args) => {
    args.push(0);
    code.float(0).simd('f32x4.pmax').simd('f32x4.sqrt');
  }),
  not: one('v128.not'),
  add: simple('f32x4.add', 'i32x4.add'),
  sub: simple('f32x4.sub', 'i32x4.sub'),
  mul: simple('f32x4.mul', 'i32x4.mul'),
  div: write((code, args) => {
    args.push(0);
    args.push(1);
    code.simd('f32x4.div');
    unlessZero(code, args, 1);
  }),
  mod: write((code, args) => {
    args.push(0);
    args.push(1);
    args.push(0);
    args.push(1);
    code.simd('f32x4.div').simd('f32x4.floor').simd('f32x4.mul').simd('f32x4.sub');
    unlessZero(code, args, 1);
  }),
  min: simple('f32x4.pmin', 'i32x4.min_s', 'i32x4.min_u'),
  max: simple('f32x4.pmax', 'i32x4.max_s', 'i32x4.max_u'),
  and: simple('v128.and'),
  or: simple('v128.or'),
  xor: simple('v128.xor'),
  lt: simple('f32x4.lt', 'i32x4.lt_s', 'i32x4.lt_u'),
  le: simple('f32x4.le', 'i32x4.le_s', 'i32x4.le_u'),
  eq: simple('f32x4.eq', 'i32x4.eq'),
  select: write((code, args) => {
    args.push(1);
    if (args.constant(2) === 0) {
      args.push(0);
      code.simd('v128.and');
      return;
    }
    args.push(2);
    args.push(0);
    code.simd('v128.bitselect');
  }),
  mix: write((code, args) => {
    args.push(0);
    args.push(1);
    args.push(0);
    code.simd('f32x4.sub');
    args.push(2);
    code.simd('f32x4.mul').simd('f32x4.add');
  }),
  clamp: write((code, args, scalar) => {
    const [max, min] =
      scalar === 'f'
        ? (['f32x4.pmax', 'f32x4.pmin'] as const)
        : scalar === 'u'
          ? (['i32x4.max_u', 'i32x4.min_u'] as const)
          : (['i32x4.max_s', 'i32x4.min_s'] as const);
    args.push(0);
    args.push(1);
    code.simd(max);
    args.push(2);
    code.simd(min);
  }),
  bitcast: write((_, args) => {
    args.push(0);
  }),
} as const satisfies Readonly<Record<Kind, Write | Series | 'compiled'>>;

/** The scalar kind that tells which instruction a node needs: that of its operands for comparisons. */
export const instructionScalar = (kind: Kind, type: string, operand: string | undefined): Scalar =>
  scalarOf((kind === 'lt' || kind === 'le' || kind === 'eq' ? (operand ?? type) : type) as never);

/** What is on the stack, as 0 where it is not finite: only there a float less itself is no number. */
export const clearNotFinite = (code: Code, local: number): Code =>
  code.set(local).get(local).get(local).get(local).simd('f32x4.sub').float(0).simd('f32x4.eq').simd('v128.and');

/** Converts one component between scalar kinds. */
export function writeConversion(code: Code, from: Scalar, to: Scalar): void {
  if (to === 'f') {
    if (from === 'b') code.float(1).simd('v128.and');
    else code.simd(from === 'u' ? 'f32x4.convert_i32x4_u' : 'f32x4.convert_i32x4_s');
  } else if (from === 'b') code.integer(1).simd('v128.and');
  else if (from === 'f') code.simd(to === 'u' ? 'i32x4.trunc_sat_f32x4_u' : 'i32x4.trunc_sat_f32x4_s');
}
