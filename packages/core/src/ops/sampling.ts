import { flow, shows, type Operation } from './operation.ts';
import { parameter } from './shared.ts';

export const sampling: readonly Operation[] = [
  {
    name: 'sample',
    family: 'sampling',
    result: 'vec4',
    summary: 'Reads an image',
    help: 'Colour images are read as linear colour, normal images as -1..1, data as it is. Wrap and filter stand on the line of the image.',
    parameters: [flow('at', 'vec2'), parameter('image', 'image', 'Which image.')],
    example: shows('uv |> tile(2, 2) |> pan(1 laps, heading: 0deg) |> sample(picture)', 'image picture = "example"'),
    lower: ({ b }, a) => {
      const slot = a.image('image');
      const read = b.read(slot, a.flow);
      return slot.encoding === 'normal' ? b.vec(b.sub(b.mul(b.pick(read, 0, 1, 2), 2), 1), b.w(read)) : read;
    },
  },
];
