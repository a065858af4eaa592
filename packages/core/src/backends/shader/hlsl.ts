import { HLSL_WORDS } from '../reserved.ts';
import { scalarOf, widthOf, type IrType, type Node, type NodeKind, type Scalar } from '../../ir/node.ts';
import type { Declared, Dialect, Helper } from './dialect.ts';
import { atom, isNonZero, parts, spelled } from './spelling.ts';
import { within, type Text } from './text.ts';

const SCALARS: Record<Scalar, string> = { f: 'float', i: 'int', u: 'uint', b: 'bool' };

const typeName = (type: IrType): string =>
  `${SCALARS[scalarOf(type)]}${widthOf(type) === 1 ? '' : String(widthOf(type))}`;

const { splat, wide, constant, call, negated, infix, compare, vec, swizzle, convert, root } = spelled({
  typeName,
  cast: (type, text) => `((${typeName(type)})(${text}))`,
  vector: (type, of) => `${typeName(type)}(${of.join(', ')})`,
});

const shift =
  (operator: string) =>
  (node: NodeKind<'shl' | 'shr'>, [a]: readonly [Text, ...Text[]]): Text => ({
    text: `${within(a, 4)} ${operator} ${String(node.payload)}`,
    level: 0,
    type: node.type,
  });
/** Bits of integers, or truth; vectors by components. */
const logical =
  (bits: string, truth: string) =>
  (node: Node, [a, b]: readonly [Text, Text, ...Text[]]): Text => {
    const width = widthOf(node.type);
    return {
      text: `${within(splat(a, width), 4)} ${scalarOf(node.type) === 'b' ? truth : bits} ${within(splat(b, width), 4)}`,
      level: 0,
      type: node.type,
    };
  };
const each =
  (operator: string) =>
  (a: string, b: string): string =>
    `(${a} ${operator} ${b})`;

const expressions: Dialect['expressions'] = {
  constant,
  input: (node, _, c) => atom(node, c.input(node)),
  uniform: (node, _, c) => atom(node, c.uniform(node)),
  parameter: (node, _, c) => atom(node, c.parameter(node)),
  neg: negated,
  abs: call('abs'),
  floor: call('floor'),
  ceil: call('ceil'),
  // frac may round up to 1 just below a whole number.
  fract: (node, [a]) => atom(node, `min(frac(${a.text}), ${wide(node, '0.99999994')})`),
  // It gives whole numbers.
  sign: (node, [a]) => atom(node, `((${typeName(node.type)})sign(${a.text}))`),
  sqrt: root,
  exp: (node, [a]) => atom(node, `exp(min(${a.text}, ${wide(node, '88.0')}))`),
  log: (node, args, c) => call(c.helper('safe_log', node.type))(node, args),
  sin: call('sin'),
  cos: call('cos'),
  not: (node, [a]) => ({ text: `!${within(a, 4)}`, level: 3, type: node.type }),
  add: infix('+', 1),
  sub: infix('-', 1),
  mul: infix('*', 2),
  div: (node, args, c) =>
    isNonZero(node.args[1]) ? infix('/', 2)(node, args) : call(c.helper('safe_div', node.type))(node, args),
  // fmod rounds towards zero.
  mod: (node, [a, b], c) => call(c.helper(isNonZero(node.args[1]) ? 'floor_mod' : 'safe_mod', node.type))(node, [a, b]),
  min: call('min'),
  max: call('max'),
  pow: (node, args, c) => call(c.helper('safe_pow', node.type))(node, args),
  atan2: (node, args, c) => call(c.helper('safe_atan', node.type))(node, args),
  and: logical('&', '&&'),
  or: logical('|', '||'),
  xor: logical('^', '!='),
  shl: shift('<<'),
  shr: shift('>>'),
  lt: compare('<', each('<')),
  le: compare('<=', each('<=')),
  eq: compare('==', each('==')),
  select: (node, [c, a, b]) => {
    const width = widthOf(node.type);
    return atom(node, `(${splat(c, width).text} ? ${splat(a, width).text} : ${splat(b, width).text})`);
  },
  mix: (node, args) => call('lerp')(node, args),
  clamp: call('clamp'),
  dot: (node, [a, b]) => atom(node, `dot(${a.text}, ${b.text})`),
  vec,
  swizzle,
  convert,
  bitcast: (node, [a]) => {
    const [from, to] = [scalarOf(a.type), node.payload];
    // Between whole numbers a conversion keeps the bits.
    if (from !== 'f' && to !== 'f') return atom(node, `((${typeName(node.type)})(${a.text}))`);
    return atom(node, `as${SCALARS[to]}(${a.text})`);
  },
  derivative: (node, [a]) => atom(node, `${node.payload === 'x' ? 'ddx' : 'ddy'}(${a.text})`),
  sample: (node, args, c) =>
    atom(
      node,
      `${c.sampler(node)}.${args.length > 1 ? 'SampleGrad' : 'Sample'}(${[`${c.sampler(node)}_sampler`, ...args.map((a) => a.text)].join(', ')})`,
    ),
  call: (node, args, c) => atom(node, `${c.callee(node)}(${args.map((a) => a.text).join(', ')})`),
};

/** A helper whose one line serves numbers and vectors alike; Z stands for zeros. */
const helper = (operands: string, value: string): Helper => ({
  write(type, nameOf) {
    const t = typeName(type);
    const list = [...operands].map((o) => `${t} ${o}`).join(', ');
    const zeros = widthOf(type) === 1 ? '0.0' : `((${t})(0.0))`;
    return `${t} ${nameOf(type)}(${list}) { return ${value.replaceAll('Z', zeros)}; }`;
  },
});
const byComponents = ([a, b]: readonly [string, string], number: string): Helper => ({
  byComponents: true,
  write(type, nameOf) {
    const t = typeName(type);
    const of = (i: number): string => `${nameOf(type)}(${a}[${String(i)}], ${b}[${String(i)}])`;
    const value = widthOf(type) === 1 ? number : `${t}(${parts(widthOf(type), of).join(', ')})`;
    return `${t} ${nameOf(type)}(${t} ${a}, ${t} ${b}) { return ${value}; }`;
  },
});

const helpers = {
  floor_mod: helper('ab', 'a - b * floor(a / b)'),
  safe_div: helper('ab', '(b == Z ? Z : a / b)'),
  safe_mod: helper('ab', '(b == Z ? Z : a - b * floor(a / b))'),
  safe_log: helper('a', '(a > Z ? log(a) : Z)'),
  safe_pow: byComponents(['a', 'b'], 'a > 0.0 ? pow(a, b) : (a == 0.0 && b == 0.0 ? 1.0 : 0.0)'),
  safe_atan: byComponents(['y', 'x'], 'x == 0.0 && y == 0.0 ? 0.0 : atan2(y, x)'),
} satisfies Dialect['helpers'];

const declared = ({ name, type }: Declared): string => `${type} ${name}`;

/** HLSL, Shader Model 5 (Microsoft, Reference for HLSL). */
export const HLSL: Dialect = {
  reserved: HLSL_WORDS,
  expressions,
  helpers,
  typeName,
  overload: () => '',
  sampler: (name, index) =>
    `Texture2D ${name} : register(t${String(index)});\nSamplerState ${name}_sampler : register(s${String(index)});`,
  comment: (text) => `// ${text}`,
  struct: (name, fields) => [`struct ${name} {`, ...fields.map((f) => `  ${declared(f)};`), '};'].join('\n'),
  local: (of, value) => `${declared(of)} = ${value};`,
  variable: (of) => `${declared(of)};`,
  truth: (text, width) => (width === 1 ? `(${text} != 0u)` : `(${text} != ((uint${String(width)})(0u)))`),
  function: (of, parameters, body, result) =>
    [
      `${declared(of)}(${parameters.map(declared).join(', ')}) {`,
      ...body.map((line) => `  ${line}`),
      `  return ${result};`,
      '}',
    ].join('\n'),
};
