import type { Builder } from '../ir/builder.ts';
import type { Node } from '../ir/node.ts';
import { Forward, isSmooth, type Slopes } from '../ir/forward.ts';
import { substitute } from '../ir/substitute.ts';
import { flow, shows, type Operation } from './operation.ts';
import { parameter } from './shared.ts';

/** How far apart bump takes its two heights, in UV units. */
const BUMP_STEP = 1 / 512;
const UP = [0, 0, 1] as const;

const unit = (b: Builder, v: Node): Node => b.div(v, b.length(v));

export const surface: readonly Operation[] = [
  {
    name: 'bump',
    makesNormal: true,
    family: 'surface',
    result: 'vec3',
    summary: 'Makes a normal from a height',
    uses: 'normal from height, relief',
    help: 'Bright is high. The height must depend on uv. If it has hard steps or comes from an image, the slope is measured over 1/256 of the square. Tangent space, y up.',
    parameters: [
      flow('height', 'number'),
      parameter('strength', 'number', 'Height of the value 1, in UV units.', { default: 0.1, range: [0, 1] }),
    ],
    example: shows('(uv |> fbm(cells: 4, evolve: 1 lap) |> bump(0.2)) * 0.5 + 0.5'),
    lower: ({ b }, a) => {
      const uv = b.input('uv');
      /** The difference of a value over a 256th of the square, along u or v. */
      const difference = (of: Node, du: number, dv: number): Node => {
        const at = (side: 1 | -1): Node =>
          substitute(b, of, new Map([[uv, b.add(uv, b.constant('f2', [side * du, side * dv]))]]));
        return b.mul(b.sub(at(1), at(-1)), 0.5 / BUMP_STEP);
      };
      const differences = (of: Node): Slopes => [difference(of, BUMP_STEP, 0), difference(of, 0, BUMP_STEP)];
      // Hard steps have a slope only over a distance, and so have images between their texels.
      const forward = new Forward(
        b,
        new Map([[uv, [b.constant('f2', [1, 0]), b.constant('f2', [0, 1])]]]),
        differences,
      );
      const [alongU, alongV] = isSmooth(a.flow) ? forward.of(a.flow) : differences(a.flow);
      const steep = a.node('strength');
      return unit(b, b.vec(b.neg(b.mul(alongU, steep)), b.mul(alongV, steep), 1));
    },
  },
  {
    name: 'join',
    makesNormal: true,
    family: 'surface',
    result: 'vec3',
    summary: 'Blends a detail normal onto a base normal',
    uses: 'detail normal, combine normals',
    help: 'The detail is rotated to follow the base (C. Barré-Brisebois and S. Hill, "Blending in detail", 2012), so neither is flattened.',
    parameters: [flow('base', 'vec3', 'vec4'), parameter('normal', ['vec3', 'vec4'], 'The detail normal.')],
    example: shows('join(uv |> fbm(cells: 2) |> bump(0.3), uv |> fbm(cells: 12) |> bump(0.05)) * 0.5 + 0.5'),
    lower: ({ b }, a) => {
      const three = (n: Node): Node => b.swizzle(n, 0, 1, 2);
      const base = b.add(three(a.flow), b.constant('f3', UP));
      const detail = b.mul(three(a.node('normal')), b.constant('f3', [-1, -1, 1]));
      return unit(b, b.sub(b.mul(base, b.div(b.dot(base, detail), b.z(base))), detail));
    },
  },
  {
    name: 'flatten',
    makesNormal: true,
    family: 'surface',
    result: 'vec3',
    summary: 'Makes a normal less steep',
    uses: 'weaker normal',
    help: '0 leaves it unchanged, 1 is flat.',
    parameters: [flow('normal', 'vec3', 'vec4'), parameter('amount', 'number', 'How flat.', { range: [0, 1] })],
    example: shows('(uv |> fbm(cells: 4) |> bump(0.3) |> flatten(wave(1 lap))) * 0.5 + 0.5'),
    lower: ({ b }, a) => unit(b, b.mix(b.swizzle(a.flow, 0, 1, 2), b.constant('f3', UP), a.node('amount'))),
  },
  {
    name: 'fresnel',
    family: 'surface',
    result: 'number',
    summary: 'Bright where the surface is seen at a grazing angle',
    uses: 'glow at the edge, rim light, outline, thin at the edges',
    help: '1 minus facing, raised to a power: higher powers make a narrower rim. 0 in a flat bake.',
    parameters: [parameter('power', 'number', 'The exponent.', { default: 1, range: [0.1, 8] })],
    example: shows('fresnel(2)'),
    lower: ({ b }, a) => b.pow(b.clamp(b.sub(1, b.input('facing')), 0, 1), a.node('power')),
  },
  {
    name: 'facing',
    family: 'surface',
    result: 'number',
    summary: 'How much the surface faces the view',
    uses: 'angle to the camera, front and side',
    help: '1 straight on, 0 edge-on; 1 in a flat bake.',
    parameters: [],
    example: shows('facing()'),
    lower: ({ b }) => b.clamp(b.input('facing'), 0, 1),
  },
  {
    name: 'contact',
    family: 'surface',
    result: 'number',
    summary: '0 where other geometry touches the surface, 1 beyond a distance',
    uses: 'touching geometry, soft where it meets a wall or floor, foam',
    help: 'Softens the line where a transparent surface meets a wall or floor. 1 where nothing is behind, as in a flat bake.',
    parameters: [
      parameter('distance', 'number', 'Distance at which it reaches 1, in metres.', { default: 0.25, range: [0, 2] }),
    ],
    example: shows('contact(0.25)'),
    lower: ({ b }, a) => b.clamp(b.div(b.input('depth_behind'), b.max(a.node('distance'), 1e-6)), 0, 1),
  },
];
