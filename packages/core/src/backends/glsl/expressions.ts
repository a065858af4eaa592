import { scalarOf, widthOf, type IrType, type Kind, type Node, type NodeKind } from '../../ir/node.ts';

/** GLSL text with how tightly it binds: 0 comparison, 1 sum, 2 product, 3 unary, 4 atom. */
export interface Text {
  readonly text: string;
  readonly level: number;
  readonly type: IrType;
}

const NAMES: Record<IrType, string> = {
  f1: 'float',
  f2: 'vec2',
  f3: 'vec3',
  f4: 'vec4',
  i1: 'int',
  i2: 'ivec2',
  i3: 'ivec3',
  i4: 'ivec4',
  u1: 'uint',
  u2: 'uvec2',
  u3: 'uvec3',
  u4: 'uvec4',
  b1: 'bool',
  b2: 'bvec2',
  b3: 'bvec3',
  b4: 'bvec4',
};
export const glslType = (type: IrType): string => NAMES[type];

/** Helpers that emitted code may call, defined where it does; `T` and `B` stand for the vector types of a width. */
export const HELPERS = {
  safe_div: (t: string, w: number) =>
    `${t} safe_div(${t} a, ${t} b) { return ${w === 1 ? 'b == 0.0 ? 0.0 : a / b' : `mix(a / b, ${t}(0.0), equal(b, ${t}(0.0)))`}; }`,
  safe_mod: (t: string, w: number) =>
    `${t} safe_mod(${t} a, ${t} b) { return ${w === 1 ? 'b == 0.0 ? 0.0 : a - b * floor(a / b)' : `mix(a - b * floor(a / b), ${t}(0.0), equal(b, ${t}(0.0)))`}; }`,
  safe_log: (t: string, w: number) =>
    `${t} safe_log(${t} a) { return ${w === 1 ? 'a > 0.0 ? log(a) : 0.0' : `mix(${t}(0.0), log(a), greaterThan(a, ${t}(0.0)))`}; }`,
  safe_pow: (t: string, w: number) =>
    w === 1
      ? 'float safe_pow(float a, float b) { return a > 0.0 ? pow(a, b) : (a == 0.0 && b == 0.0 ? 1.0 : 0.0); }'
      : `${t} safe_pow(${t} a, ${t} b) { return ${t}(${Array.from({ length: w }, (_, i) => `safe_pow(a[${String(i)}], b[${String(i)}])`).join(', ')}); }`,
  safe_atan: (t: string, w: number) =>
    w === 1
      ? 'float safe_atan(float y, float x) { return x == 0.0 && y == 0.0 ? 0.0 : atan(y, x); }'
      : `${t} safe_atan(${t} y, ${t} x) { return ${t}(${Array.from({ length: w }, (_, i) => `safe_atan(y[${String(i)}], x[${String(i)}])`).join(', ')}); }`,
} as const;
export type Helper = keyof typeof HELPERS;

/** What an expression needs from around it. */
export interface ExpressionContext {
  readonly helper: (name: Helper, type: IrType) => string;
  readonly input: (node: NodeKind<'input'>) => string;
  readonly uniform: (node: Node) => string;
  readonly parameter: (node: NodeKind<'parameter'>) => string;
  readonly sampler: (node: NodeKind<'sample'>) => string;
  readonly callee: (node: NodeKind<'call'>) => string;
}

/** A 32-bit float literal with as few digits as name it. */
export function floatText(value: number): string {
  const rounded = Math.fround(value);
  let text = '';
  for (let digits = 1; digits <= 9; digits++) {
    text = rounded.toPrecision(digits);
    if (Math.fround(Number(text)) === rounded) break;
  }
  const short = String(Number(text));
  return /[.e]/.test(short) ? short : `${short}.0`;
}

function literal(scalar: 'f' | 'i' | 'u' | 'b', value: number): string {
  if (scalar === 'f') return floatText(value);
  if (scalar === 'b') return value === 0 ? 'false' : 'true';
  return scalar === 'u' ? `${String(value >>> 0)}u` : String(value | 0);
}

const atom = (node: Node, text: string): Text => ({ text, level: 4, type: node.type });
const within = (arg: Text | undefined, level: number): string =>
  arg ? (arg.level < level ? `(${arg.text})` : arg.text) : '';

/** An operand widened to the node's width. */
const splat = (arg: Text | undefined, type: IrType): string =>
  !arg ? '' : widthOf(arg.type) === widthOf(type) ? arg.text : `${glslType(type)}(${arg.text})`;
const splatTo = (arg: Text | undefined, like: IrType, width: number): string =>
  !arg
    ? ''
    : widthOf(arg.type) === width
      ? arg.text
      : `${glslType(`${scalarOf(like)}${String(width)}` as IrType)}(${arg.text})`;

const call =
  (name: string) =>
  (node: Node, args: readonly Text[]): Text =>
    atom(node, `${name}(${args.map((a) => splat(a, node.type)).join(', ')})`);

/** `a + b`: vectors and scalars mix as they do in GLSL. */
const infix =
  (operator: string, level: number) =>
  (node: Node, [a, b]: readonly Text[]): Text => ({
    text: `${within(a, level)} ${operator} ${within(b, level + 1)}`,
    level,
    type: node.type,
  });

const compare =
  (operator: string, vector: string) =>
  (node: Node, [a, b]: readonly Text[]): Text => {
    const width = widthOf(node.type);
    if (width === 1) return { text: `${within(a, 1)} ${operator} ${within(b, 1)}`, level: 0, type: node.type };
    const like = a?.type ?? 'f1';
    return atom(node, `${vector}(${splatTo(a, like, width)}, ${splatTo(b, like, width)})`);
  };

/** Bits of integers, or truth: GLSL's logical operators take single booleans only. */
const logical =
  (bits: string, truth: string) =>
  (node: Node, [a, b]: readonly Text[]): Text => {
    if (scalarOf(node.type) !== 'b')
      return { text: `${within(a, 4)} ${bits} ${within(b, 4)}`, level: 0, type: node.type };
    const width = widthOf(node.type);
    if (width === 1) return { text: `${within(a, 4)} ${truth} ${within(b, 4)}`, level: 0, type: node.type };
    const parts = Array.from(
      { length: width },
      (_, i) =>
        `${within(a, 4)}${widthOf(a?.type ?? 'b1') === 1 ? '' : `[${String(i)}]`} ${truth} ${within(b, 4)}${widthOf(b?.type ?? 'b1') === 1 ? '' : `[${String(i)}]`}`,
    );
    return atom(node, `${glslType(node.type)}(${parts.join(', ')})`);
  };

const isNonZero = (node: Node | undefined): boolean => node?.kind === 'constant' && node.payload.every((v) => v !== 0);
const SWIZZLE = 'xyzw';

type Emit<K extends Kind> = (node: NodeKind<K>, args: readonly Text[], context: ExpressionContext) => Text;

/** How each kind of node is written; a kind that is missing does not compile. */
export const EXPRESSIONS: { readonly [K in Kind]: Emit<K> } = {
  constant: (node) => {
    const scalar = scalarOf(node.type);
    const [first = 0] = node.payload;
    if (node.payload.length === 1) return { text: literal(scalar, first), level: first < 0 ? 3 : 4, type: node.type };
    const same = node.payload.every((v) => v === first);
    return atom(
      node,
      `${glslType(node.type)}(${(same ? [first] : node.payload).map((v) => literal(scalar, v)).join(', ')})`,
    );
  },
  input: (node, _, c) => atom(node, c.input(node)),
  uniform: (node, _, c) => atom(node, c.uniform(node)),
  parameter: (node, _, c) => atom(node, c.parameter(node)),
  neg: (node, [a]) => ({ text: `-${within(a, 4)}`, level: 3, type: node.type }),
  abs: call('abs'),
  floor: call('floor'),
  ceil: call('ceil'),
  // GLSL's fract may round up to 1 just below a whole number.
  fract: (node, [a]) => atom(node, `min(fract(${a?.text ?? ''}), 0.99999994)`),
  sign: call('sign'),
  sqrt: (node, [a]) => {
    const of = node.args[0];
    if (of?.kind === 'dot' && of.args[0] === of.args[1] && a?.text.startsWith('dot('))
      return atom(node, `length(${a.text.slice(4, 4 + (a.text.length - 7) / 2)})`);
    return atom(
      node,
      of?.kind === 'dot' && of.args[0] === of.args[1] ? `sqrt(${a?.text ?? ''})` : `sqrt(max(${a?.text ?? ''}, 0.0))`,
    );
  },
  exp: (node, [a]) => atom(node, `exp(min(${a?.text ?? ''}, 88.0))`),
  log: (node, args, c) => call(c.helper('safe_log', node.type))(node, args),
  sin: call('sin'),
  cos: call('cos'),
  not: (node, [a]) =>
    widthOf(node.type) === 1
      ? { text: `!${within(a, 4)}`, level: 3, type: node.type }
      : atom(node, `not(${a?.text ?? ''})`),
  add: infix('+', 1),
  sub: infix('-', 1),
  mul: infix('*', 2),
  div: (node, args, c) =>
    isNonZero(node.args[1]) ? infix('/', 2)(node, args) : call(c.helper('safe_div', node.type))(node, args),
  mod: (node, args, c) =>
    isNonZero(node.args[1])
      ? atom(node, `mod(${splat(args[0], node.type)}, ${args[1]?.text ?? ''})`)
      : call(c.helper('safe_mod', node.type))(node, args.slice(0, 2)),
  min: (node, [a, b]) => atom(node, `min(${splat(a, node.type)}, ${b?.text ?? ''})`),
  max: (node, [a, b]) => atom(node, `max(${splat(a, node.type)}, ${b?.text ?? ''})`),
  pow: (node, args, c) => call(c.helper('safe_pow', node.type))(node, args),
  atan2: (node, args, c) => call(c.helper('safe_atan', node.type))(node, args),
  and: logical('&', '&&'),
  or: logical('|', '||'),
  xor: logical('^', '!='),
  shl: (node, [a, b]) => ({ text: `${within(a, 4)} << ${within(b, 4)}`, level: 0, type: node.type }),
  shr: (node, [a, b]) => ({ text: `${within(a, 4)} >> ${within(b, 4)}`, level: 0, type: node.type }),
  lt: compare('<', 'lessThan'),
  le: compare('<=', 'lessThanEqual'),
  eq: compare('==', 'equal'),
  select: (node, [c, a, b]) => {
    const [, then, otherwise] = node.args;
    const isTruth =
      then?.kind === 'constant' &&
      otherwise?.kind === 'constant' &&
      then.payload.every((v) => v === 1) &&
      otherwise.payload.every((v) => v === 0) &&
      scalarOf(node.type) === 'f';
    if (isTruth && widthOf(c?.type ?? 'b1') === widthOf(node.type))
      return atom(node, `${glslType(node.type)}(${c?.text ?? ''})`);
    if (widthOf(c?.type ?? 'b1') === 1)
      return { text: `(${within(c, 0)} ? ${splat(a, node.type)} : ${splat(b, node.type)})`, level: 4, type: node.type };
    return atom(node, `mix(${splat(b, node.type)}, ${splat(a, node.type)}, ${c?.text ?? ''})`);
  },
  mix: (node, [a, b, t]) => atom(node, `mix(${splat(a, node.type)}, ${splat(b, node.type)}, ${t?.text ?? ''})`),
  clamp: (node, [x, low, high]) => {
    const bounds = [low, high].some((bound) => bound && widthOf(bound.type) > 1)
      ? [splat(low, node.type), splat(high, node.type)]
      : [low?.text ?? '', high?.text ?? ''];
    return atom(node, `clamp(${splat(x, node.type)}, ${bounds.join(', ')})`);
  },
  dot: (node, [a, b]) => atom(node, `dot(${a?.text ?? ''}, ${b?.text ?? ''})`),
  vec: (node, args) => {
    const [first] = args;
    const same = args.every((a) => a.text === first?.text && widthOf(a.type) === 1);
    return atom(node, `${glslType(node.type)}(${(same && first ? [first] : args).map((a) => a.text).join(', ')})`);
  },
  swizzle: (node, [a]) => atom(node, `${within(a, 4)}.${node.payload.map((i) => SWIZZLE[i] ?? 'x').join('')}`),
  convert: (node, [a]) => atom(node, `${glslType(node.type)}(${a?.text ?? ''})`),
  bitcast: (node, [a]) => {
    const from = scalarOf(a?.type ?? 'f1');
    const name =
      node.payload === 'f'
        ? from === 'u'
          ? 'uintBitsToFloat'
          : 'intBitsToFloat'
        : node.payload === 'u'
          ? 'floatBitsToUint'
          : 'floatBitsToInt';
    return atom(node, `${name}(${a?.text ?? ''})`);
  },
  derivative: (node, [a]) => atom(node, `${node.payload === 'x' ? 'dFdx' : 'dFdy'}(${a?.text ?? ''})`),
  sample: (node, [at, dx, dy], c) =>
    atom(
      node,
      dx && dy
        ? `textureGrad(${c.sampler(node)}, ${at?.text ?? ''}, ${dx.text}, ${dy.text})`
        : `texture(${c.sampler(node)}, ${at?.text ?? ''})`,
    ),
  call: (node, args, c) => atom(node, `${c.callee(node)}(${args.map((a) => a.text).join(', ')})`),
};
