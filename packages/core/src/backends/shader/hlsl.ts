import { HLSL_WORDS } from '../reserved.ts';
import { scalarOf, widthOf, type IrType, type Scalar } from '../../ir/node.ts';
import type { Declared, Dialect, Helper } from './dialect.ts';
import { atom, parts, spelled } from './spelling.ts';

const SCALARS: Record<Scalar, string> = { f: 'float', i: 'int', u: 'uint', b: 'bool' };

const typeName = (type: IrType): string =>
  `${SCALARS[scalarOf(type)]}${widthOf(type) === 1 ? '' : String(widthOf(type))}`;

const { splat, wide, call, shift, logical, alike, strict } = spelled({
  typeName,
  cast: (type, text) => `((${typeName(type)})(${text}))`,
  vector: (type, of) => `${typeName(type)}(${of.join(', ')})`,
});

const expressions: Dialect['expressions'] = {
  ...alike,
  ...strict,
  // frac may round up to 1 just below a whole number.
  fract: (node, [a]) => atom(node, `min(frac(${a.text}), ${wide(node.type, '0.99999994')})`),
  // It gives whole numbers.
  sign: (node, [a]) => atom(node, `((${typeName(node.type)})sign(${a.text}))`),
  and: logical('&', '&&'),
  or: logical('|', '||'),
  xor: logical('^', '!='),
  shl: shift('<<'),
  shr: shift('>>'),
  select: (node, [c, a, b]) => {
    const width = widthOf(node.type);
    return atom(node, `(${splat(c, width).text} ? ${splat(a, width).text} : ${splat(b, width).text})`);
  },
  mix: call('lerp'),
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
