import { C_WORDS } from '../reserved.ts';
import { scalarOf, widthOf, type Node, type Scalar } from '../../ir/node.ts';
import { atom, within } from './body.ts';
import type { Components, HostDialect, Term } from './dialect.ts';
import { call, helper, infix, type Context } from './terms.ts';

export const C_TYPES: Readonly<Record<Scalar, string>> = { f: 'double', i: 'int32_t', u: 'uint32_t', b: 'int' };

/** A helper for each scalar kind. */
const typed =
  (name: string) =>
  (node: Node, args: Components, c: Context): Term =>
    helper(`${name}_${scalarOf(node.type)}`)(node, args, c);
/** Signed numbers wrap as unsigned ones do: of themselves they must not. */
const arithmetic =
  (operator: string, level: number) =>
  (node: Node, args: Components): Term => {
    if (scalarOf(node.type) !== 'i') return infix(operator, level)(node, args);
    return atom(`(int32_t)((uint32_t)${within(args[0], 4)} ${operator} (uint32_t)${within(args[1], 4)})`);
  };
const logical =
  (bits: string, truth: string) =>
  (node: Node, [a, b]: Components): Term => ({
    text: `${within(a, 4)} ${scalarOf(node.type) === 'b' ? truth : bits} ${within(b, 4)}`,
    level: 0,
  });

/** A double with as many digits as name it. */
function double(value: number): string {
  if (!Number.isFinite(value)) return value > 0 ? '(1.0 / 0.0)' : value < 0 ? '(-1.0 / 0.0)' : '(0.0 / 0.0)';
  const text = Object.is(value, -0) ? '-0' : String(value);
  return /[.e]/.test(text) ? text : `${text}.0`;
}

/** C99 (ISO/IEC 9899:1999). */
export const C99: HostDialect = {
  reserved: C_WORDS,
  literal: (scalar, value) => {
    if (scalar === 'f') return { text: double(value), level: value < 0 || Object.is(value, -0) ? 3 : 4 };
    if (scalar === 'b') return atom(value === 0 ? '0' : '1');
    if (scalar === 'u') return atom(`${String(value >>> 0)}u`);
    if ((value | 0) === -(2 ** 31)) return atom('(-2147483647 - 1)');
    return { text: String(value | 0), level: value < 0 ? 3 : 4 };
  },
  expressions: {
    neg: (node, [a]) =>
      scalarOf(node.type) === 'f'
        ? { text: `-${within(a, 4)}`, level: 3 }
        : atom(`(int32_t)(0u - (uint32_t)${within(a, 4)})`),
    abs: (node, args, c) => (scalarOf(node.type) === 'f' ? call('fabs')(node, args) : helper('abs_i')(node, args, c)),
    floor: call('floor'),
    ceil: call('ceil'),
    fract: helper('fract'),
    sign: helper('sign'),
    sqrt: helper('sqrt'),
    exp: helper('exp'),
    log: helper('log'),
    sin: helper('sin'),
    cos: helper('cos'),
    not: (_, [a]) => ({ text: `!${within(a, 4)}`, level: 3 }),
    add: arithmetic('+', 1),
    sub: arithmetic('-', 1),
    mul: arithmetic('*', 2),
    div: helper('div'),
    mod: helper('mod', 2),
    min: typed('min'),
    max: typed('max'),
    pow: helper('pow'),
    atan2: helper('atan2'),
    and: logical('&', '&&'),
    or: logical('|', '||'),
    xor: logical('^', '!='),
    shl: (node, [a]) =>
      scalarOf(node.type) === 'u'
        ? { text: `${within(a, 4)} << ${String(node.payload)}`, level: 0 }
        : atom(`(int32_t)((uint32_t)${within(a, 4)} << ${String(node.payload)})`),
    shr: (node, [a]) => ({ text: `${within(a, 4)} >> ${String(node.payload)}`, level: 0 }),
    lt: infix('<', 0),
    le: infix('<=', 0),
    eq: infix('==', 0),
    select: (_, [c, a, b]) => atom(`(${c.text} ? ${a.text} : ${b.text})`),
    mix: helper('mix'),
    clamp: typed('clamp'),
    convert: (node, [a], c) => {
      if (node.payload === 'f') return atom(`(double)${within(a, 4)}`);
      if (c.from === 'f') return atom(`${c.helper(node.payload === 'u' ? 'to_u32' : 'to_i32')}(${a.text})`);
      return atom(`(${C_TYPES[node.payload]})${within(a, 4)}`);
    },
    bitcast: (node, [a], c) => {
      if (c.from === 'f') return atom(`(${C_TYPES[node.payload]})${c.helper('float_bits')}(${a.text})`);
      return node.payload === 'f'
        ? atom(`${c.helper('bits_float')}((uint32_t)${within(a, 4)})`)
        : atom(`(${C_TYPES[node.payload]})${within(a, 4)}`);
    },
  },
  helpers: {
    abs_i: 'static inline int32_t NAME_abs_i(int32_t a) { return a < 0 ? (int32_t)(0u - (uint32_t)a) : a; }',
    fract:
      'static inline double NAME_fract(double x) { double part = x - floor(x); return part < 1.0 - 1.0 / 16777216.0 ? part : 1.0 - 1.0 / 16777216.0; }',
    sign: 'static inline double NAME_sign(double x) { return x > 0.0 ? 1.0 : x < 0.0 ? -1.0 : 0.0; }',
    sqrt: 'static inline double NAME_sqrt(double x) { return sqrt(x < 0.0 ? 0.0 : x); }',
    exp: 'static inline double NAME_exp(double x) { return isfinite(x) ? exp(x < 88.0 ? x : 88.0) : 0.0; }',
    log: 'static inline double NAME_log(double x) { return x > 0.0 && isfinite(x) ? log(x > 1.1754943508222875e-38 ? x : 1.1754943508222875e-38) : 0.0; }',
    sin: 'static inline double NAME_sin(double x) { return isfinite(x) ? sin(x) : 0.0; }',
    cos: 'static inline double NAME_cos(double x) { return isfinite(x) ? cos(x) : 0.0; }',
    div: 'static inline double NAME_div(double a, double b) { return b == 0.0 ? 0.0 : a / b; }',
    mod: 'static inline double NAME_mod(double a, double b) { return b == 0.0 ? 0.0 : a - b * floor(a / b); }',
    min_f: 'static inline double NAME_min_f(double a, double b) { return b < a ? b : a; }',
    max_f: 'static inline double NAME_max_f(double a, double b) { return a < b ? b : a; }',
    clamp_f:
      'static inline double NAME_clamp_f(double x, double low, double high) { double above = x < low ? low : x; return high < above ? high : above; }',
    min_i: 'static inline int32_t NAME_min_i(int32_t a, int32_t b) { return b < a ? b : a; }',
    max_i: 'static inline int32_t NAME_max_i(int32_t a, int32_t b) { return a < b ? b : a; }',
    clamp_i:
      'static inline int32_t NAME_clamp_i(int32_t x, int32_t low, int32_t high) { int32_t above = x < low ? low : x; return high < above ? high : above; }',
    min_u: 'static inline uint32_t NAME_min_u(uint32_t a, uint32_t b) { return b < a ? b : a; }',
    max_u: 'static inline uint32_t NAME_max_u(uint32_t a, uint32_t b) { return a < b ? b : a; }',
    clamp_u:
      'static inline uint32_t NAME_clamp_u(uint32_t x, uint32_t low, uint32_t high) { uint32_t above = x < low ? low : x; return high < above ? high : above; }',
    mix: 'static inline double NAME_mix(double a, double b, double t) { return a + (b - a) * t; }',
    pow: 'static inline double NAME_pow(double x, double y) { double power; if (!isfinite(x) || !isfinite(y)) return 0.0; if (x <= 0.0) return x == 0.0 && y == 0.0 ? 1.0 : 0.0; power = y * NAME_log(x); return exp(power < 88.0 ? power : 88.0); }',
    atan2:
      'static inline double NAME_atan2(double y, double x) { return (y == 0.0 && x == 0.0) || !isfinite(fabs(y) + fabs(x)) ? 0.0 : atan2(y == 0.0 ? 0.0 : y, x); }',
    to_i32:
      'static inline int32_t NAME_to_i32(double x) { return isnan(x) ? 0 : x <= -2147483648.0 ? -2147483647 - 1 : x >= 2147483647.0 ? 2147483647 : (int32_t)x; }',
    to_u32:
      'static inline uint32_t NAME_to_u32(double x) { return isnan(x) || x <= 0.0 ? 0u : x >= 4294967295.0 ? 4294967295u : (uint32_t)x; }',
    float_bits:
      'static inline uint32_t NAME_float_bits(double x) { float value = (float)x; uint32_t bits; memcpy(&bits, &value, sizeof bits); return bits; }',
    bits_float:
      'static inline double NAME_bits_float(uint32_t bits) { float value; memcpy(&value, &bits, sizeof value); return (double)value; }',
  },
  comment: (text) => `/* ${text.replaceAll('*/', '* /').replaceAll('/*', '/ *')} */`,
  local: (scalar, name, value) => `const ${C_TYPES[scalar]} ${name} = ${value};`,
  callInto: (name, type, callee, args) =>
    `${C_TYPES[scalarOf(type)]} ${name}[${String(widthOf(type))}]; ${callee}(${[...args, name].join(', ')});`,
  function: (name, type, parameters, body, result) => {
    const t = C_TYPES[scalarOf(type)];
    const wide = widthOf(type) > 1;
    const list = parameters.map((p) => `${C_TYPES[p.scalar]} ${p.name}`);
    const all = [...list, ...(wide ? [`${t} *out`] : [])];
    const read = new Set([...body, ...result].flatMap((line) => line.match(/\w+/g) ?? []));
    return [
      `static inline ${wide ? 'void' : t} ${name}(${all.length === 0 ? 'void' : all.join(', ')}) {`,
      ...parameters.filter((p) => !read.has(p.name)).map((p) => `  (void)${p.name};`),
      ...body.map((line) => `  ${line}`),
      ...(wide ? result.map((r, i) => `  out[${String(i)}] = ${r};`) : [`  return ${result[0]!};`]),
      '}',
    ].join('\n');
  },
};
