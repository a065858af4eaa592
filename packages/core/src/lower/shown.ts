import type { Step, Typed } from '../check/program.ts';
import type { Graph } from './lower.ts';
import { widthOf, type Node } from '../ir/node.ts';

/** Lines of the grid over coordinates, per UV unit. */
const GRID = 4;

/**
 * The step's value is a direction of the surface, -1..1: it goes out as the normal, or comes from an operation or image
 * of normals.
 */
function isNormal(typed: Typed): boolean {
  if (typed.kind === 'step') return isNormal(typed.step.value);
  if (typed.kind === 'swizzle') return typed.indices.length === 3 && isNormal(typed.of);
  if (typed.kind === 'convert') return isNormal(typed.of);
  if (typed.kind !== 'call') return false;
  if (typed.operation.makesNormal) return true;
  const image = typed.args.get('image');
  return image?.kind === 'image' && image.image.encoding === 'normal';
}

export const showsNormal = (step: Step): boolean =>
  (step.kind === 'out' && step.name === 'normal') || isNormal(step.value);

/**
 * What a step looks like as a colour, linear with straight alpha. Numbers are grey, and normals brought to 0..1, such
 * that a screen shows the value itself; a vec2 is red and green over a fine grid; colours are themselves.
 */
export function shownColor(graph: Graph, index: number): Node {
  const { builder: b, steps, program } = graph;
  const node = steps[index]!;
  const width: number = widthOf(node.type);
  // A screen decodes about a power of 2.2; what is below 0 stays there, to be told from 0.
  const plain = (value: Node): Node => b.select(b.lt(value, 0), value, b.pow(b.max(value, 0), 2.2));
  if (width === 1) {
    const grey = plain(node);
    return b.vec(grey, grey, grey, 1);
  }
  if (width === 2) {
    const place = b.fract(node);
    const line = b.abs(b.sub(b.fract(b.mul(node, GRID)), 0.5));
    const near = b.truth(b.lt(0.43, b.max(b.x(line), b.y(line))));
    return b.vec(plain(b.mix(place, b.number(0.85), b.mul(near, 0.6))), plain(b.mul(near, 0.5)), 1);
  }
  const step = program.steps[index];
  if (step && showsNormal(step)) return b.vec(plain(b.add(b.mul(b.swizzle(node, 0, 1, 2), 0.5), 0.5)), 1);
  return width === 3 ? b.vec(node, 1) : node;
}
