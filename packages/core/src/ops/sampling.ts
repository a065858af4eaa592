import type { Builder } from '../ir/builder.ts';
import type { ImageSlot, Node } from '../ir/node.ts';
import { flow, shows, type Operation } from './operation.ts';
import { parameter } from './shared.ts';

/** What was read, with normals carried over from 0..1 to -1..1. */
const unpacked = (b: Builder, slot: ImageSlot, read: Node): Node =>
  slot.encoding === 'normal' ? b.vec(b.sub(b.mul(b.swizzle(read, 0, 1, 2), 2), 1), b.w(read)) : read;

export const sampling: readonly Operation[] = [
  {
    name: 'sample',
    family: 'sampling',
    result: 'vec4',
    summary: 'Samples an image',
    uses: 'texture, read an image, picture',
    help: 'Colour images are read as linear colour, normal images as -1..1, data unchanged. Wrap and filter are set on the line of the image.',
    parameters: [flow('at', 'vec2'), parameter('image', 'image', 'Which image.')],
    example: shows('uv |> tile(2, 2) |> pan(1 lap, heading: 0deg) |> sample(picture)', 'image picture = "example"'),
    lower: ({ b }, a) => unpacked(b, a.image('image'), b.sample(a.image('image'), a.flow)),
  },
  {
    name: 'stream',
    family: 'sampling',
    result: 'vec4',
    summary: 'Moves an image along a flow map',
    uses: 'flow map, river, water surface',
    help: 'Each pixel drifts in its own direction. Two copies alternate, half a period apart, and each restarts while the other shows, so the image never stretches far. The flow is 0..1: x right, y up, 0.5 does not move.',
    parameters: [
      flow('at', 'vec2'),
      parameter('image', 'image', 'The image.'),
      parameter('flow', 'vec2', 'The direction at this pixel, 0..1.'),
      parameter('rate', 'rate', 'How often each copy restarts.', { default: 1, range: [-6, 6] }),
      parameter('amount', 'number', 'How far a copy drifts before it restarts, in UV units.', {
        default: 0.2,
        range: [0, 1],
      }),
    ],
    example: shows('uv |> stream(picture, uv |> curl(cells: 2), 2 laps, 0.3)', 'image picture = "example"'),
    lower: ({ b, loops }, a) => {
      const slot = a.image('image');
      const cycles = b.mul(a.node('rate'), loops);
      const push = b.mul(b.mul(b.sub(a.node('flow'), 0.5), b.constant('f2', [2, -2])), a.node('amount'));
      const copy = (offset: number): { color: Node; place: Node } => {
        const place = b.fract(b.add(cycles, offset));
        // Centred, so that the picture drifts as far to one side of its place as to the other.
        return { color: b.sample(slot, b.sub(a.flow, b.mul(push, b.sub(place, 0.5)))), place };
      };
      const [first, second] = [copy(0), copy(0.5)];
      const mixed = b.mix(first.color, second.color, b.abs(b.sub(b.mul(first.place, 2), 1)));
      return unpacked(b, slot, mixed);
    },
  },
];
