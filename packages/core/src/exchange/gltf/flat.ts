import type { Builder } from '../../ir/builder.ts';
import { pixelInput } from '../../ir/evaluate.ts';
import type { Node, PixelInput } from '../../ir/node.ts';

/** What a texture knows nothing of, in words that follow "It depends on". */
const PLACES: Readonly<Record<Exclude<PixelInput, 'uv'>, string>> = {
  uv2: 'the second UV set',
  screen: 'the screen position',
  position: 'the position on the mesh',
  world: 'the world position',
  vertex_color: 'vertex colours',
  facing: 'the view angle',
  depth_behind: 'the depth behind it',
};

/** A value of the place on a mesh or a screen, of which a texture knows nothing. */
export const isPlaced = (node: Node): boolean =>
  node.kind === 'derivative' || (node.kind === 'input' && node.payload !== 'uv');

/** Details, in words that follow "It depends on". */
export const placeWords = (node: Node): string =>
  node.kind === 'input' ? PLACES[node.payload as keyof typeof PLACES] : 'the size of a pixel';

/** What stands for a value of the place, as on a flat square that is seen straight on. */
export function flatOf(b: Builder, node: Node): Node {
  if (node.kind !== 'input') return b.zero(node.type);
  const uv = b.input('uv');
  if (node.payload === 'uv2' || node.payload === 'screen') return uv;
  if (node.payload === 'position' || node.payload === 'world')
    return b.vec(b.sub(b.x(uv), 0.5), b.sub(0.5, b.y(uv)), b.number(0));
  return b.constant(node.type, pixelInput({ uv: [0, 0] }, node.payload));
}
