import { BLEND_MODES, composite, type BlendMode } from './blend-modes.ts';
import { rampAt } from './colour.ts';
import { flow, shows, type Operation } from './operation.ts';
import type { RampTable } from './value-type.ts';
import type { Builder } from '../ir/builder.ts';
import { parameter } from './shared.ts';
import type { Node } from '../ir/node.ts';

const progress = parameter('progress', 'number', '0 is hidden, 1 is fully visible.', { range: [0, 1] });
const petals = ['base = (uv |> checker(6)) * (0.3, 0.5, 0.7) + (0.1, 0.1, 0.15)', 'mask = uv |> fbm(cells: 4)'];

/**
 * How far the front has passed a mask value: (progress * (1 + edge) - mask) / edge, 0..1, written so that both ends are
 * exact.
 */
export function dissolveAge(b: Builder, mask: Node, amount: Node, edge: Node): Node {
  return b.clamp(b.add(b.div(b.sub(amount, b.clamp(mask, 0, 1)), b.max(edge, 1e-6)), amount), 0, 1);
}

/** A base, with straight alpha, behind a front of this age whose colours are a ramp's. */
export function dissolved(b: Builder, base: Node, age: Node, core: Node, ramp: RampTable | undefined): Node {
  const shown = b.clamp(b.div(b.sub(age, core), b.sub(1, b.min(core, 0.999999))), 0, 1);
  const front = ramp ? rampAt(b, ramp, age) : b.zero('f4');
  // Before its age begins nothing shows, whatever the ramp starts with.
  const ofFront = b.mul(b.mul(b.w(front), b.sub(1, shown)), b.truth(b.lt(0, age)));
  const ofBase = b.mul(b.w(base), shown);
  const alpha = b.add(ofFront, ofBase);
  const mixed = b.mix(b.swizzle(front, 0, 1, 2), b.swizzle(base, 0, 1, 2), b.div(ofBase, alpha));
  return b.select(b.le(1, age), base, b.vec(mixed, alpha));
}

export const layers: readonly Operation[] = [
  {
    name: 'blend',
    family: 'layers',
    result: 'vec4',
    summary: 'Blends another colour onto this one',
    uses: 'multiply, screen, overlay, layer, mix pictures, tint',
    help: 'What flows is the base, the layer lies on it by its alpha times the amount. Modes are those of the W3C compositing standard, with underscores for hyphens, and add; they work on linear light, 0..1.',
    parameters: [
      flow('base', 'color'),
      parameter('layer', 'color', 'The colour on top.'),
      parameter('mode', 'keyword', 'The blend mode.', {
        options: [...Object.keys(BLEND_MODES), 'add'],
        default: 'normal',
      }),
      parameter('amount', 'number', 'The opacity of the layer.', { default: 1, range: [0, 1] }),
    ],
    example: shows('(0.2, 0.4, 0.6) |> blend((uv.x, 0.4, uv.y), overlay, wave(1 lap))'),
    lower: ({ b }, a) =>
      composite(b, a.flow, a.node('layer'), a.keyword('mode') as BlendMode | 'add', a.node('amount')),
  },
  {
    name: 'over',
    family: 'layers',
    result: 'vec4',
    summary: 'Composites over another colour',
    uses: 'layer on top, composite, foreground',
    help: 'The input is on top, by its alpha: a |> over(b) reads "a over b". The reverse of blend, whose layer is on top.',
    parameters: [flow('color', 'color'), parameter('layer', 'color', 'The colour below.')],
    example: shows('(uv |> disc(0.3)) * #ffb84d |> over((0.1, 0.2, 0.3))'),
    lower: ({ b }, a) => composite(b, a.node('layer'), a.flow, 'normal', 1),
  },
  {
    name: 'reveal',
    dissolves: { mask: 'mask', progress: 'progress', edge: 'soft' },
    family: 'layers',
    result: 'number',
    summary: 'Reveals by a mask, from its dark parts to its bright ones',
    uses: 'dissolve, appear, wipe, fade by a mask',
    help: 'Returns an opacity: 0 everywhere at progress 0, 1 everywhere at progress 1. Soft is the width of the front, in mask values.',
    parameters: [
      flow('mask', 'number'),
      progress,
      parameter('soft', 'number', 'Width of the front.', { default: 0.1, range: [0, 1] }),
    ],
    example: shows('uv |> fbm(cells: 4) |> reveal(wave(1 lap), 0.1)'),
    lower: ({ b }, a) => dissolveAge(b, a.flow, a.node('progress'), a.node('soft')),
  },
  {
    name: 'dissolve',
    dissolves: { mask: 'mask', progress: 'progress', edge: 'edge', ramp: 'ramp', core: 'core' },
    family: 'layers',
    result: 'vec4',
    summary: 'Reveals a colour behind a burning edge',
    uses: 'burn away, appear, disappear, embers',
    help: 'As the front passes a mask value, its age goes from 0 to 1. Before the core only the ramp shows, after it the ramp fades into the colour. Fully hidden at progress 0, exactly the colour at progress 1.',
    parameters: [
      flow('color', 'color'),
      parameter('mask', 'number', 'The mask: dark parts appear first.'),
      progress,
      parameter('edge', 'number', 'Width of the front, in mask values.', { default: 0.2, range: [0, 1] }),
      parameter('ramp', 'ramp', 'Colours of the front, from its leading edge to its end.'),
      parameter('core', 'number', 'The age at which the colour starts to show.', { default: 0.5, range: [0, 1] }),
    ],
    example: shows(
      'base |> dissolve(mask, wave(1 lap), 0.3, fire, 0.4)',
      'ramp fire = 0% #40100000, 30% #ff5010, 100% #ffe0a0',
      ...petals,
    ),
    lower: ({ b }, a) => {
      const passed = dissolveAge(b, a.node('mask'), a.node('progress'), a.node('edge'));
      return dissolved(b, a.flow, passed, a.node('core'), a.ramp('ramp'));
    },
  },
];
