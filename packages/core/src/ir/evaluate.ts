import { compute } from './compute.ts';
import type { Round, Value } from './kinds.ts';
import { inOrder, widthOf, type IrFunction, type Node, type PixelInput, type UniformSource } from './node.ts';

/** What is the same over a whole frame: the moment in seconds and the dials' values in internal units. */
export interface FrameInputs {
  readonly time: number;
  readonly dials: ReadonlyMap<string, Value>;
}

/** What differs from pixel to pixel; what is left out is 0, or uv for the other coordinates. */
export type PixelInputs = { readonly uv: Value } & Readonly<Partial<Record<PixelInput, Value>>>;

/** What is not given: uv for the other coordinates, a flat surface seen straight on with nothing behind it. */
export function pixelInput(inputs: PixelInputs, name: PixelInput): Value {
  const given = inputs[name];
  if (given) return given;
  const [u = 0, v = 0] = inputs.uv;
  switch (name) {
    case 'uv':
    case 'uv2':
    case 'screen':
      return inputs.uv;
    case 'position':
    case 'world':
      return [u - 0.5, 0.5 - v, 0];
    case 'vertex_color':
      return [1, 1, 1, 1];
    case 'facing':
      return [1];
    case 'depth_behind':
      return [FAR];
  }
}

/** Metres to what is not there. */
export const FAR = 1e6;

/** Nothing, as wide as a node. */
export const zeros = (node: Node): Value => Array.from({ length: widthOf(node.type) }, () => 0);

const uniformValue = (source: UniformSource, { time, dials }: FrameInputs): Value | undefined =>
  source === 'time' ? [time] : dials.get(source.dial);

/** Values per frame, in float64: of every node in the roots' graphs that does not depend on the pixel. */
export const evaluateFrame = (roots: readonly Node[], frame: FrameInputs): ReadonlyMap<Node, Value> =>
  frameEvaluator(roots)(frame);

/**
 * The same for many frames: what no frame changes is computed once, here. The map that it gives is the same each time, with the
 * values of the last frame.
 */
export function frameEvaluator(roots: readonly Node[]): (frame: FrameInputs) => ReadonlyMap<Node, Value> {
  const values = new Map<Node, Value>();
  const changing: Node[] = [];
  const compute = (node: Node): void => {
    const args = node.args.map((arg) => values.get(arg) ?? zeros(arg));
    values.set(node, valueOf(node, args, Number));
  };
  for (const node of inOrder(roots)) {
    if (node.frequency === 'constant') compute(node);
    else if (node.frequency === 'frame') changing.push(node);
  }
  return (frame) => {
    for (const node of changing) {
      if (node.kind === 'uniform') values.set(node, uniformValue(node.payload, frame) ?? zeros(node));
      else compute(node);
    }
    return values;
  };
}

/** The value of a node from its operands' values, function calls included. */
export function valueOf(node: Node, args: readonly Value[], round: Round): Value {
  // Integers keep all their bits.
  if (node.kind === 'constant') return node.type.startsWith('f') ? node.payload.map(round) : node.payload;
  if (node.kind === 'call') return callValue(node.payload, args, round);
  return compute(node, args, round);
}

const orders = new WeakMap<IrFunction, Node[]>();

function callValue(fn: IrFunction, args: readonly Value[], round: Round): Value {
  let order = orders.get(fn);
  if (!order) orders.set(fn, (order = inOrder([fn.result])));
  const values = new Map<Node, Value>();
  for (const node of order) {
    const value =
      node.kind === 'parameter'
        ? (args[node.payload] ?? zeros(node))
        : valueOf(
            node,
            node.args.map((a) => values.get(a) ?? zeros(a)),
            round,
          );
    values.set(node, value);
  }
  return values.get(fn.result) ?? zeros(fn.result);
}
