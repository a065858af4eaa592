import { WGSL_WORDS } from '../reserved.ts';
import { irType, scalarOf, widthOf, type IrType, type Node, type NodeKind, type Scalar } from '../../ir/node.ts';
import type { Declared, Dialect, Helper } from './dialect.ts';
import { atom, parts, spelled } from './spelling.ts';
import { within, type Text } from './text.ts';

const SCALARS: Record<Scalar, string> = { f: 'f32', i: 'i32', u: 'u32', b: 'bool' };

const typeName = (type: IrType): string => {
  const scalar = SCALARS[scalarOf(type)];
  return widthOf(type) === 1 ? scalar : `vec${String(widthOf(type))}<${scalar}>`;
};

const { splat, wide, call, logical, alike, strict } = spelled({
  typeName,
  cast: (type, text) => `${typeName(type)}(${text})`,
  vector: (type, of) => `${typeName(type)}(${of.join(', ')})`,
});

/** By an unsigned number, of a vector by as many. */
const shift =
  (operator: string) =>
  (node: NodeKind<'shl' | 'shr'>, [a]: readonly [Text, ...Text[]]): Text => ({
    text: `${within(a, 4)} ${operator} ${wideShift(node, `${String(node.payload)}u`)}`,
    level: 0,
    type: node.type,
  });
const wideShift = (node: Node, by: string): string =>
  widthOf(node.type) === 1 ? by : `${typeName(irType('u', widthOf(node.type)))}(${by})`;
const expressions: Dialect['expressions'] = {
  ...alike,
  ...strict,
  // fract may round up to 1 just below a whole number.
  fract: (node, [a]) => atom(node, `min(fract(${a.text}), ${wide(node.type, '0.99999994')})`),
  sign: call('sign'),
  and: logical('&', '&&', '&'),
  or: logical('|', '||', '|'),
  xor: logical('^', '!=', '!='),
  shl: shift('<<'),
  shr: shift('>>'),
  select: (node, [c, a, b]) => {
    const width = widthOf(node.type);
    return atom(node, `select(${splat(b, width).text}, ${splat(a, width).text}, ${c.text})`);
  },
  mix: call('mix'),
  bitcast: (node, [a]) => atom(node, `bitcast<${typeName(node.type)}>(${a.text})`),
  derivative: (node, [a]) => atom(node, `${node.payload === 'x' ? 'dpdx' : 'dpdy'}(${a.text})`),
  sample: (node, args, c) => {
    const name = c.sampler(node);
    return atom(
      node,
      `${args.length > 1 ? 'textureSampleGrad' : 'textureSample'}(${[name, `${name}_sampler`, ...args.map((a) => a.text)].join(', ')})`,
    );
  },
};

/** A helper whose one line serves numbers and vectors alike; Z stands for zeros. */
const helper = (operands: string, value: string): Helper => ({
  write(type, nameOf) {
    const t = typeName(type);
    const list = [...operands].map((o) => `${o}: ${t}`).join(', ');
    return `fn ${nameOf(type)}(${list}) -> ${t} { return ${value.replaceAll('Z', `${t}(0.0)`)}; }`;
  },
});
const byComponents = ([a, b]: readonly [string, string], number: string): Helper => ({
  byComponents: true,
  write(type, nameOf) {
    const t = typeName(type);
    const of = (i: number): string => `${nameOf('f1')}(${a}[${String(i)}], ${b}[${String(i)}])`;
    const value = widthOf(type) === 1 ? number : `${t}(${parts(widthOf(type), of).join(', ')})`;
    return `fn ${nameOf(type)}(${a}: ${t}, ${b}: ${t}) -> ${t} { return ${value}; }`;
  },
});

const helpers = {
  floor_mod: helper('ab', 'a - b * floor(a / b)'),
  safe_div: helper('ab', 'select(a / b, Z, b == Z)'),
  safe_mod: helper('ab', 'select(a - b * floor(a / b), Z, b == Z)'),
  safe_log: helper('a', 'select(Z, log(a), a > Z)'),
  safe_pow: byComponents(['a', 'b'], 'select(select(0.0, 1.0, a == 0.0 && b == 0.0), pow(a, b), a > 0.0)'),
  safe_atan: byComponents(['y', 'x'], 'select(atan2(y, x), 0.0, x == 0.0 && y == 0.0)'),
} satisfies Dialect['helpers'];

const declared = ({ name, type }: Declared): string => `${name}: ${type}`;

/** WGSL (W3C, WebGPU Shading Language). */
export const WGSL: Dialect = {
  reserved: WGSL_WORDS,
  expressions,
  helpers,
  typeName,
  overload: (type) => `_${SCALARS[scalarOf(type)]}${widthOf(type) === 1 ? '' : `x${String(widthOf(type))}`}`,
  // Binding 0 is for what is not an image.
  sampler: (name, index) =>
    `@group(0) @binding(${String(2 * index + 1)}) var ${name}: texture_2d<f32>;\n@group(0) @binding(${String(2 * index + 2)}) var ${name}_sampler: sampler;`,
  comment: (text) => `// ${text}`,
  struct: (name, fields) => [`struct ${name} {`, ...fields.map((f) => `  ${declared(f)},`), '}'].join('\n'),
  local: (of, value) => `let ${declared(of)} = ${value};`,
  variable: (of) => `var ${declared(of)};`,
  truth: (text, width) => (width === 1 ? `(${text} != 0u)` : `(${text} != vec${String(width)}<u32>(0u))`),
  function: ({ name, type }, parameters, body, result) =>
    [
      `fn ${name}(${parameters.map(declared).join(', ')}) -> ${type} {`,
      ...body.map((line) => `  ${line}`),
      `  return ${result};`,
      '}',
    ].join('\n'),
};
