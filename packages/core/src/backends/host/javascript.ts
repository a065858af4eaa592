import { JAVASCRIPT_WORDS } from '../reserved.ts';
import { scalarOf, widthOf, type Node, type Scalar } from '../../ir/node.ts';
import { atom, within } from './body.ts';
import type { Components, HostDialect, Term } from './dialect.ts';
import { call, helper, infix } from './terms.ts';

/** Of 32 bits, as whole numbers wrap. */
const wrapped = (scalar: Scalar, text: string): Term => atom(scalar === 'u' ? `((${text}) >>> 0)` : `((${text}) | 0)`);
const arithmetic =
  (operator: string, level: number) =>
  (node: Node, args: Components): Term => {
    const term = infix(operator, level)(node, args);
    return scalarOf(node.type) === 'f' ? term : wrapped(scalarOf(node.type), term.text);
  };
const logical =
  (bits: string, truth: string) =>
  (node: Node, [a, b]: Components): Term =>
    scalarOf(node.type) === 'b'
      ? { text: `${within(a, 4)} ${truth} ${within(b, 4)}`, level: 0 }
      : wrapped(scalarOf(node.type), `${within(a, 4)} ${bits} ${within(b, 4)}`);

/** JavaScript (ECMA-262). */
export const JAVASCRIPT: HostDialect = {
  reserved: JAVASCRIPT_WORDS,
  literal: (scalar, value) =>
    scalar === 'b'
      ? atom(value === 0 ? 'false' : 'true')
      : { text: Object.is(value, -0) ? '-0' : String(value), level: value < 0 || Object.is(value, -0) ? 3 : 4 },
  expressions: {
    neg: (node, [a]) =>
      scalarOf(node.type) === 'f'
        ? { text: `-${within(a, 4)}`, level: 3 }
        : wrapped(scalarOf(node.type), `-${within(a, 4)}`),
    abs: (node, args) =>
      scalarOf(node.type) === 'f' ? call('Math.abs')(node, args) : wrapped('i', `Math.abs(${args[0].text})`),
    floor: call('Math.floor'),
    ceil: call('Math.ceil'),
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
    mul: (node, args) =>
      scalarOf(node.type) === 'f'
        ? infix('*', 2)(node, args)
        : wrapped(scalarOf(node.type), `Math.imul(${args[0].text}, ${args[1].text})`),
    div: helper('div'),
    mod: helper('mod', 2),
    min: helper('min'),
    max: helper('max'),
    pow: helper('pow'),
    atan2: helper('atan2'),
    and: logical('&', '&&'),
    or: logical('|', '||'),
    xor: logical('^', '!=='),
    shl: (node, [a]) => wrapped(scalarOf(node.type), `${within(a, 4)} << ${String(node.payload)}`),
    shr: (node, [a]) => atom(`(${within(a, 4)} ${scalarOf(node.type) === 'u' ? '>>>' : '>>'} ${String(node.payload)})`),
    lt: infix('<', 0),
    le: infix('<=', 0),
    eq: infix('===', 0),
    select: (_, [c, a, b]) => atom(`(${c.text} ? ${a.text} : ${b.text})`),
    mix: helper('mix'),
    clamp: helper('clamp'),
    convert: (node, [a], c) => {
      if (node.payload === 'f') return c.from === 'b' ? atom(`Number(${a.text})`) : a;
      if (c.from === 'f') return atom(`${c.helper(node.payload === 'u' ? 'to_u32' : 'to_i32')}(${a.text})`);
      return wrapped(node.payload, c.from === 'b' ? `Number(${a.text})` : within(a, 4));
    },
    bitcast: (node, [a], c) => {
      if (c.from === 'f') return atom(`${c.helper(node.payload === 'u' ? 'float_to_u32' : 'float_to_i32')}(${a.text})`);
      return node.payload === 'f'
        ? atom(`${c.helper('bits_to_float')}(${a.text})`)
        : wrapped(node.payload, within(a, 4));
    },
  },
  helpers: {
    fract:
      'const NAME_fract = (x) => { const part = x - Math.floor(x); return part < 1 - 2 ** -24 ? part : 1 - 2 ** -24; };',
    sign: 'const NAME_sign = (x) => (x > 0 ? 1 : x < 0 ? -1 : 0);',
    sqrt: 'const NAME_sqrt = (x) => Math.sqrt(x < 0 ? 0 : x);',
    exp: 'const NAME_exp = (x) => (Number.isFinite(x) ? Math.exp(Math.min(x, 88)) : 0);',
    log: 'const NAME_log = (x) => (x > 0 && Number.isFinite(x) ? Math.log(Math.max(x, 2 ** -126)) : 0);',
    sin: 'const NAME_sin = (x) => (Number.isFinite(x) ? Math.sin(x) : 0);',
    cos: 'const NAME_cos = (x) => (Number.isFinite(x) ? Math.cos(x) : 0);',
    div: 'const NAME_div = (a, b) => (b === 0 ? 0 : a / b);',
    mod: 'const NAME_mod = (a, b) => (b === 0 ? 0 : a - b * Math.floor(a / b));',
    min: 'const NAME_min = (a, b) => (b < a ? b : a);',
    max: 'const NAME_max = (a, b) => (a < b ? b : a);',
    clamp:
      'const NAME_clamp = (x, low, high) => { const above = x < low ? low : x; return high < above ? high : above; };',
    mix: 'const NAME_mix = (a, b, t) => a + (b - a) * t;',
    pow: 'const NAME_pow = (x, y) => (!Number.isFinite(x) || !Number.isFinite(y) ? 0 : x > 0 ? Math.exp(Math.min(y * NAME_log(x), 88)) : x === 0 && y === 0 ? 1 : 0);',
    atan2:
      'const NAME_atan2 = (y, x) => ((y === 0 && x === 0) || !Number.isFinite(Math.abs(y) + Math.abs(x)) ? 0 : Math.atan2(y === 0 ? 0 : y, x));',
    to_i32:
      'const NAME_to_i32 = (x) => (Number.isNaN(x) ? 0 : Math.min(Math.max(Math.trunc(x), -2147483648), 2147483647));',
    to_u32: 'const NAME_to_u32 = (x) => (Number.isNaN(x) ? 0 : Math.min(Math.max(Math.trunc(x), 0), 4294967295));',
    float_to_i32: 'const NAME_float_to_i32 = (x) => new Int32Array(new Float32Array([x]).buffer)[0];',
    float_to_u32: 'const NAME_float_to_u32 = (x) => new Uint32Array(new Float32Array([x]).buffer)[0];',
    bits_to_float: 'const NAME_bits_to_float = (x) => new Float32Array(new Int32Array([x]).buffer)[0];',
  },
  comment: (text) => `// ${text}`,
  local: (_, name, value) => `const ${name} = ${value};`,
  callInto: (name, _, callee, args) => `const ${name} = ${callee}(${args.join(', ')});`,
  function: (name, type, parameters, body, result) =>
    [
      `function ${name}(${parameters.map((p) => p.name).join(', ')}) {`,
      ...body.map((line) => `  ${line}`),
      `  return ${widthOf(type) === 1 ? result[0]! : `[${result.join(', ')}]`};`,
      '}',
    ].join('\n'),
};
