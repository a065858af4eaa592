import { GLSL_WORDS } from '../reserved.ts';
import { scalarOf, widthOf, type IrType, type Node, type Scalar } from '../../ir/node.ts';
import type { Declared, Dialect, Helper } from './dialect.ts';
import { atom, component, isAll, isNonZero, parts, spelled } from './spelling.ts';
import { within, type Text } from './text.ts';

const SCALARS: Record<Scalar, string> = { f: 'float', i: 'int', u: 'uint', b: 'bool' };
const PREFIXES: Record<Scalar, string> = { f: '', i: 'i', u: 'u', b: 'b' };

const typeName = (type: IrType): string =>
  widthOf(type) === 1 ? SCALARS[scalarOf(type)] : `${PREFIXES[scalarOf(type)]}vec${String(widthOf(type))}`;

const { splat, call, loose, compare, shift, alike } = spelled({
  typeName,
  cast: (type, text) => `${typeName(type)}(${text})`,
  vector: (type, of) => `${typeName(type)}(${of.join(', ')})`,
});
const vectors =
  (name: string) =>
  (a: string, b: string): string =>
    `${name}(${a}, ${b})`;

/** Bits of integers, or truth: GLSL's logical operators take single booleans only. */
const logical =
  (bits: string, truth: string) =>
  (node: Node, [a, b]: readonly [Text, Text, ...Text[]]): Text => {
    const width = widthOf(node.type);
    const isTruth = scalarOf(node.type) === 'b';
    if (isTruth && width > 1)
      return atom(
        node,
        `${typeName(node.type)}(${parts(width, (i) => `${component(a, i)} ${truth} ${component(b, i)}`).join(', ')})`,
      );
    return { text: `${within(a, 4)} ${isTruth ? truth : bits} ${within(b, 4)}`, level: 0, type: node.type };
  };

const expressions: Dialect['expressions'] = {
  ...alike,
  // GLSL's fract may round up to 1 just below a whole number.
  fract: (node, [a]) => atom(node, `min(fract(${a.text}), 0.99999994)`),
  sign: call('sign'),
  exp: (node, [a]) => atom(node, `exp(min(${a.text}, 88.0))`),
  not: (node, [a]) =>
    widthOf(node.type) === 1 ? { text: `!${within(a, 4)}`, level: 3, type: node.type } : atom(node, `not(${a.text})`),
  mod: (node, [a, b], c) =>
    isNonZero(node.args[1]) ? loose('mod')(node, [a, b]) : call(c.helper('safe_mod', node.type))(node, [a, b]),
  min: loose('min'),
  max: loose('max'),
  and: logical('&', '&&'),
  or: logical('|', '||'),
  xor: logical('^', '!='),
  shl: shift('<<'),
  shr: shift('>>'),
  lt: compare('<', vectors('lessThan')),
  le: compare('<=', vectors('lessThanEqual')),
  eq: compare('==', vectors('equal')),
  select: (node, [c, a, b]) => {
    const width = widthOf(node.type);
    const isFloat = scalarOf(node.type) === 'f';
    const isTruth = isFloat && isAll(node.args[1], 1) && isAll(node.args[2], 0);
    if (isTruth && widthOf(c.type) === width) return atom(node, `${typeName(node.type)}(${c.text})`);
    const [then, otherwise] = [splat(a, width), splat(b, width)];
    if (widthOf(c.type) === 1) return atom(node, `(${c.text} ? ${then.text} : ${otherwise.text})`);
    if (isFloat) return atom(node, `mix(${otherwise.text}, ${then.text}, ${c.text})`);
    // Only floats are mixed by truth.
    const each = (i: number): string => `${component(c, i)} ? ${component(a, i)} : ${component(b, i)}`;
    return atom(node, `${typeName(node.type)}(${parts(width, each).join(', ')})`);
  },
  mix: (node, [a, b, t]) => {
    const width = widthOf(node.type);
    return atom(node, `mix(${splat(a, width).text}, ${splat(b, width).text}, ${t.text})`);
  },
  clamp: (node, [x, low, high]) => {
    const width = widthOf(node.type);
    // Either both bounds are as wide as the value, or none.
    const bounds = [low, high].some((bound) => widthOf(bound.type) > 1)
      ? [splat(low, width), splat(high, width)]
      : [low, high];
    return loose('clamp')(node, [x, ...bounds]);
  },
  bitcast: (node, [a]) => {
    const [from, to] = [scalarOf(a.type), node.payload];
    // Between whole numbers a conversion keeps the bits.
    if (from !== 'f' && to !== 'f') return atom(node, `${typeName(node.type)}(${a.text})`);
    const name =
      to === 'f' ? `${from === 'u' ? 'uint' : 'int'}BitsToFloat` : `floatBitsTo${to === 'u' ? 'Uint' : 'Int'}`;
    return atom(node, `${name}(${a.text})`);
  },
  derivative: (node, [a]) => atom(node, `${node.payload === 'x' ? 'dFdx' : 'dFdy'}(${a.text})`),
  sample: (node, args, c) =>
    atom(
      node,
      `${args.length > 1 ? 'textureGrad' : 'texture'}(${[c.sampler(node), ...args.map((a) => a.text)].join(', ')})`,
    ),
};

/** A helper of one or two operands, 0 where it has no value: `number` for numbers, `vector` for wider ones. */
const guarded = (operands: string, number: string, vector: (t: string) => string): Helper => ({
  write(type, nameOf) {
    const t = typeName(type);
    const list = [...operands].map((o) => `${t} ${o}`).join(', ');
    return `${t} ${nameOf(type)}(${list}) { return ${widthOf(type) === 1 ? number : vector(t)}; }`;
  },
});
const byComponents = ([a, b]: readonly [string, string], number: string): Helper => ({
  byComponents: true,
  write(type, nameOf) {
    const t = typeName(type);
    const name = nameOf(type);
    const of = (i: number): string => `${name}(${a}[${String(i)}], ${b}[${String(i)}])`;
    const value = widthOf(type) === 1 ? number : `${t}(${parts(widthOf(type), of).join(', ')})`;
    return `${t} ${name}(${t} ${a}, ${t} ${b}) { return ${value}; }`;
  },
});

const helpers = {
  safe_div: guarded('ab', 'b == 0.0 ? 0.0 : a / b', (t) => `mix(a / b, ${t}(0.0), equal(b, ${t}(0.0)))`),
  safe_mod: guarded(
    'ab',
    'b == 0.0 ? 0.0 : a - b * floor(a / b)',
    (t) => `mix(a - b * floor(a / b), ${t}(0.0), equal(b, ${t}(0.0)))`,
  ),
  safe_log: guarded('a', 'a > 0.0 ? log(a) : 0.0', (t) => `mix(${t}(0.0), log(a), greaterThan(a, ${t}(0.0)))`),
  safe_pow: byComponents(['a', 'b'], 'a > 0.0 ? pow(a, b) : (a == 0.0 && b == 0.0 ? 1.0 : 0.0)'),
  safe_atan: byComponents(['y', 'x'], 'x == 0.0 && y == 0.0 ? 0.0 : atan(y, x)'),
} satisfies Dialect['helpers'];

const declared = ({ name, type }: Declared): string => `${type} ${name}`;

/** GLSL ES 3.00 (Khronos, The OpenGL ES Shading Language 3.00). */
export const GLSL: Dialect = {
  reserved: GLSL_WORDS,
  expressions,
  helpers,
  typeName,
  overload: () => '',
  sampler: (name) => `uniform sampler2D ${name};`,
  comment: (text) => `// ${text}`,
  struct: (name, fields) => [`struct ${name} {`, ...fields.map((f) => `  ${declared(f)};`), '};'].join('\n'),
  local: (of, value) => `${declared(of)} = ${value};`,
  variable: (of) => `${declared(of)};`,
  truth: (text, width) => (width === 1 ? `(${text} != 0u)` : `notEqual(${text}, uvec${String(width)}(0u))`),
  function: (of, parameters, body, result) =>
    [
      `${declared(of)}(${parameters.map(declared).join(', ')}) {`,
      ...body.map((line) => `  ${line}`),
      `  return ${result};`,
      '}',
    ].join('\n'),
};
