import type { Node } from '../ir/node.ts';
import { flow, shows, type Accepts, type LowerContext, type Operation } from './operation.ts';
import { parameter, TAU } from './shared.ts';

type Lower = (c: LowerContext, ...args: Node[]) => Node;

/** An operation of GLSL: same name, same meaning, what flows first. */
function glsl(
  name: string,
  summary: string,
  accepts: Accepts,
  more: readonly string[],
  lower: Lower,
  result: Operation['result'] = 'widest',
  help = '',
): Operation {
  const rest = { clamp: ['-0.5', '0.5'], mod: ['0.7'] }[name] ?? more.map(() => 'uv.y * 2');
  const shown: Record<string, string> = {
    length: 'length(uv)',
    dot: 'dot(uv, (0.5, 0.5))',
    distance: 'distance(uv, (0.5, 0.5))',
    normalize: 'normalize(uv).x',
    atan: 'atan(0.5 - uv.y, uv.x - 0.5) / 1turn + 0.5',
  };
  return {
    name,
    family: 'maths',
    result,
    summary,
    help: help || `GLSL's ${name}.`,
    parameters: [
      flow('x', accepts),
      ...more.map((m) => parameter(m, accepts, `The ${m} of GLSL's ${name}.`, { range: [-1, 1] })),
    ],
    example: shows(shown[name] ?? `${name}(${['uv.x * 4 - 2', ...rest].join(', ')})`),
    lower: (c, a) => lower(c, a.flow, ...more.map((m) => a.node(m))),
  };
}

/** Turns an angle into radians; numbers are radians already. */
const trigonometric = (name: 'sin' | 'cos', summary: string): Operation => ({
  name,
  family: 'maths',
  result: 'widest',
  summary,
  help: `GLSL's ${name}: of an angle, or of a number of radians.`,
  parameters: [flow('x', 'radians')],
  example: shows(`${name}(uv.x * 12) * 0.5 + 0.5`),
  lower: ({ b }, a) => b[name](a.flow),
});

export const maths: readonly Operation[] = [
  glsl('abs', 'The value without its sign', 'quantity', [], ({ b }, x) => b.abs(x)),
  glsl('floor', 'Rounds down', 'vector', [], ({ b }, x) => b.floor(x)),
  glsl('ceil', 'Rounds up', 'vector', [], ({ b }, x) => b.ceil(x)),
  glsl('fract', 'The fractional part, 0..1', 'vector', [], ({ b }, x) => b.fract(x)),
  glsl('sign', '-1, 0 or 1', 'vector', [], ({ b }, x) => b.sign(x)),
  {
    ...glsl(
      'sqrt',
      'The square root',
      'vector',
      [],
      ({ b }, x) => b.sqrt(x),
      'widest',
      "GLSL's sqrt; negative values give 0.",
    ),
    domain: 'not negative',
  },
  glsl('exp', 'e to the power of the value', 'vector', [], ({ b }, x) => b.exp(x)),
  {
    ...glsl(
      'log',
      'The natural logarithm',
      'vector',
      [],
      ({ b }, x) => b.log(x),
      'widest',
      "GLSL's log; values of 0 and below give 0.",
    ),
    domain: 'positive',
  },
  trigonometric('sin', 'The sine'),
  trigonometric('cos', 'The cosine'),
  glsl(
    'atan',
    'The angle of a direction',
    'number',
    ['along'],
    ({ b }, y, x) => b.div(b.atan2(y, x), TAU),
    'angle',
    "GLSL's atan(y, x), as an angle; 0deg where both are 0.",
  ),
  glsl('min', 'The smaller of two', 'quantity', ['y'], ({ b }, x, y) => b.min(x, y)),
  glsl('max', 'The larger of two', 'quantity', ['y'], ({ b }, x, y) => b.max(x, y)),
  glsl(
    'mod',
    'The remainder of a division',
    'quantity',
    ['y'],
    ({ b }, x, y) => b.mod(x, y),
    'widest',
    "GLSL's mod: the result has the sign of y; 0 where y is 0.",
  ),
  glsl('clamp', 'Clamps between two bounds', 'quantity', ['low', 'high'], ({ b }, x, low, high) =>
    b.clamp(x, low, high),
  ),
  {
    name: 'mix',
    family: 'maths',
    result: 'widest',
    summary: 'Interpolates between two values',
    uses: 'blend two values, crossfade',
    help: "GLSL's mix: 0 is the first, 1 the second.",
    parameters: [
      flow('from', 'quantity'),
      parameter('to', 'quantity', 'The second value.'),
      parameter('share', 'number', 'The weight of the second value, 0..1.', { range: [0, 1] }),
    ],
    example: shows('mix((0.1, 0.2, 0.4), (1, 0.6, 0.2), uv.x)'),
    lower: ({ b }, a) => b.mix(a.flow, a.node('to'), a.node('share')),
  },
  glsl('length', 'The length of a vector', 'vector', [], ({ b }, x) => b.length(x), 'number'),
  glsl('dot', 'The dot product', 'vector', ['y'], ({ b }, x, y) => b.dot(x, y), 'number'),
  glsl(
    'distance',
    'The distance between two points',
    'vector',
    ['y'],
    ({ b }, x, y) => b.length(b.sub(x, y)),
    'number',
  ),
  glsl(
    'normalize',
    'The direction of a vector, of length 1',
    'vector',
    [],
    ({ b }, x) => b.div(x, b.length(x)),
    'widest',
    "GLSL's normalize; a vector of length 0 stays 0.",
  ),
];
