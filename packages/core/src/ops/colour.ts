import type { Builder } from '../ir/builder.ts';
import type { Node } from '../ir/node.ts';
import { flow, shows, type LowerContext, type Operation } from './operation.ts';
import { parameter, smoothCurve, TAU } from './shared.ts';
import type { RampTable } from './value-type.ts';

const color = flow('color', 'color');
const base = { family: 'colour', result: 'vec4' } as const;
const wheel = 'hsv((uv.x, 0.8, 0.9))';

/** Luminance of linear sRGB primaries (ITU-R BT.709). */
const LUMA = [0.2126, 0.7152, 0.0722] as const;

const rgb = ({ b }: LowerContext, c: Node): Node => b.swizzle(c, 0, 1, 2);
const luminance = (c: LowerContext, value: Node): Node => c.b.dot(rgb(c, value), c.b.constant('f3', LUMA));

/** Colour of a ramp at 0..1: straight, smooth or stepped between its stops; linear light, alpha straight. */
export function rampAt(b: Builder, ramp: RampTable, at: Node): Node {
  const [first, ...rest] = ramp.stops;
  let result = b.constant('f4', first?.color ?? [0, 0, 0, 0]);
  let before = first?.at ?? 0;
  for (const stop of rest) {
    const to = b.constant('f4', stop.color);
    const span = stop.at - before;
    if (ramp.easing === 'stepped' || span <= 0) {
      result = b.select(b.le(stop.at, at), to, result);
    } else {
      const t = b.clamp(b.div(b.sub(at, before), span), 0, 1);
      result = b.mix(result, to, ramp.easing === 'smooth' ? smoothCurve(b, t) : t);
    }
    before = stop.at;
  }
  return result;
}

export const colour: readonly Operation[] = [
  {
    ...base,
    name: 'ramp',
    summary: 'Colours a value by a ramp',
    uses: 'colour by value, gradient map, fire colours, palette',
    help: 'The value picks the place along the ramp, 0 to 1; beyond the ends the end colours stay.',
    parameters: [flow('value', 'number'), parameter('ramp', 'ramp', 'Which ramp.')],
    example: shows(
      'uv |> fbm(cells: 4, evolve: 1 lap) |> ramp(fire)',
      'ramp fire = 0% #000000, 45% #801008, 70% #ff8a1c, 100% #fff2c0',
    ),
    lower: ({ b }, a) => rampAt(b, a.ramp('ramp'), a.flow),
  },
  {
    ...base,
    name: 'hue',
    summary: 'Rotates the hue',
    uses: 'rainbow, shift colour',
    help: 'Turns colours about the grey axis; greys stay. A whole turn is the colour again.',
    parameters: [color, parameter('angle', 'angle', 'The rotation.', { range: [-0.5, 0.5], sample: '45deg' })],
    example: shows(`${wheel} |> hue(swing(0deg, 180deg, 1 lap))`),
    lower: (c, a) => {
      const { b } = c;
      // Rodrigues' rotation about (1, 1, 1) / sqrt 3.
      const v = rgb(c, a.flow);
      const radians = b.mul(b.fract(a.node('angle')), TAU);
      const [cos, sin] = [b.cos(radians), b.sin(radians)];
      const mean = b.div(b.dot(v, b.constant('f3', [1, 1, 1])), 3);
      const cross = b.mul(b.sub(b.swizzle(v, 2, 0, 1), b.swizzle(v, 1, 2, 0)), 1 / Math.sqrt(3));
      return b.vec(b.add(b.add(b.mul(v, cos), b.mul(cross, sin)), b.mul(mean, b.sub(1, cos))), b.w(a.flow));
    },
  },
  {
    ...base,
    name: 'saturation',
    summary: 'Makes colours more or less saturated',
    uses: 'grey, desaturate, vivid',
    help: '0 is grey, 1 leaves the colour unchanged, above 1 is more saturated.',
    parameters: [color, parameter('amount', 'number', 'How strong.', { range: [0, 2] })],
    example: shows(`${wheel} |> saturation(swing(0, 1.5, 1 lap))`),
    lower: (c, a) => c.b.vec(c.b.mix(luminance(c, a.flow), rgb(c, a.flow), a.node('amount')), c.b.w(a.flow)),
  },
  {
    ...base,
    name: 'brightness',
    summary: 'Multiplies the brightness of a colour',
    uses: 'lighter, darker, intensity, glow',
    help: '1 leaves it unchanged, 2 is twice as bright. Alpha is unchanged.',
    parameters: [color, parameter('amount', 'number', 'The factor.', { range: [0, 4] })],
    example: shows(`${wheel} |> brightness(swing(0.2, 1, 1 lap))`),
    lower: (c, a) => c.b.vec(c.b.mul(rgb(c, a.flow), a.node('amount')), c.b.w(a.flow)),
  },
  {
    ...base,
    name: 'luma',
    result: 'number',
    summary: 'How bright a colour is',
    help: 'Luminance of the linear colour (ITU-R BT.709). Turns a picture into an opacity or a mask.',
    parameters: [color],
    example: shows(`${wheel} |> luma()`),
    lower: (c, a) => luminance(c, a.flow),
  },
  {
    ...base,
    name: 'hsv',
    summary: 'Makes a colour from hue, saturation and value',
    uses: 'colour from hue',
    help: 'x is the hue in turns, y the saturation, z the value. The result is read as sRGB and given as linear colour.',
    parameters: [flow('hsv', 'vec3')],
    example: shows(wheel),
    lower: ({ b }, a) => {
      const [h, s, v] = [b.x(a.flow), b.y(a.flow), b.z(a.flow)];
      const places = b.fract(b.add(h, b.constant('f3', [0, 2 / 3, 1 / 3])));
      const pure = b.clamp(b.sub(b.abs(b.sub(b.mul(places, 6), 3)), 1), 0, 1);
      const srgb = b.mul(b.mix(b.number(1), pure, s), v);
      const linear = b.pow(b.div(b.add(srgb, 0.055), 1.055), 2.4);
      return b.vec(b.select(b.le(srgb, 0.04045), b.div(srgb, 12.92), linear), 1);
    },
  },
];
