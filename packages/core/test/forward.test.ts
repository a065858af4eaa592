import { describe, expect, it } from '@jest/globals';
import { compile, OPERATIONS, type Node, type Value } from '../src/index.ts';
import { Builder } from '../src/ir/builder.ts';
import { pixelInput, valueOf, zeros } from '../src/ir/evaluate.ts';
import { Forward, isSmooth } from '../src/ir/forward.ts';
import { KINDS } from '../src/ir/kinds.ts';
import { inOrder, irType, widthOf, type Kind } from '../src/ir/node.ts';

const MOMENT = 1.37;
/** Values in 64 bits, so that differences are differences. */
function valuesAt(roots: readonly Node[], uv: readonly [number, number]): Value[] {
  const values = new Map<Node, Value>();
  for (const node of inOrder(roots)) {
    if (node.kind === 'input') values.set(node, pixelInput({ uv }, node.payload));
    else if (node.kind === 'uniform') values.set(node, node.payload === 'time' ? [MOMENT] : zeros(node));
    else
      values.set(
        node,
        valueOf(
          node,
          node.args.map((a) => values.get(a)!),
          Number,
        ),
      );
  }
  return roots.map((r) => values.get(r)!);
}

const PLACES = Array.from(
  { length: 80 },
  (_, i) => [(i * 0.7548776662 + 0.03) % 1, (i * 0.5698402909 + 0.07) % 1] as const,
);
const STEP = 1e-6;

/** How far derivatives are from central differences at each place, for their size; the largest of all components. */
function errorsOf(b: Builder, root: Node): number[] {
  const uv = b.input('uv');
  const seeds = new Map([[uv, [b.constant('f2', [1, 0]), b.constant('f2', [0, 1])] as const]]);
  const slopes = new Forward(b, seeds, (node) => [b.zero(node.type), b.zero(node.type)]).of(root);
  return PLACES.map(([u, v]) =>
    Math.max(
      ...slopes.flatMap((slope, axis) => {
        const [du, dv] = axis === 0 ? [STEP, 0] : [0, STEP];
        const [told] = valuesAt([slope], [u, v]);
        const [after] = valuesAt([root], [u + du, v + dv]);
        const [before] = valuesAt([root], [u - du, v - dv]);
        return after!.map((x, i) => {
          const seen = (x - before![i]!) / (2 * STEP);
          return Math.abs(told![i]! - seen) / (1 + Math.abs(seen));
        });
      }),
    ),
  );
}

describe('derivatives', () => {
  const kinds = (Object.keys(KINDS) as Kind[]).filter((kind) => {
    const { derivative, definition, componentwise } = KINDS[kind];
    return derivative !== 'implicit' && definition !== 'given' && componentwise && KINDS[kind].scalars.includes('f');
  });
  it.each(kinds)('of %s are what central differences show', (kind) => {
    for (const width of [1, 3]) {
      const b = new Builder({ simplify: false });
      const [u, v] = [b.x(b.input('uv')), b.y(b.input('uv'))];
      const operands = [
        b.add(b.mul(u, 1.3), b.mul(b.mul(v, v), 0.7)),
        b.add(b.add(b.mul(u, v), 0.4), v),
        b.add(0.15, b.mul(b.mul(u, 0.6), v)),
      ].map((x, i) => b.vec(...Array.from({ length: width }, (_, c) => b.add(x, 0.2 * c + 0.1 * i))));
      const args = operands.slice(0, KINDS[kind].operands);
      if (kind === 'select') args[0] = b.lt(operands[0]!, operands[1]!);
      const type = irType('f', width);
      const root =
        kind === 'convert' || kind === 'bitcast'
          ? b.convert('f', b.convert('i', b.mul(args[0]!, 9)))
          : kind === 'clamp'
            ? b.clamp(operands[0]!, 0.4, operands[1]!)
            : b.node<Kind>(kind, type, args, undefined);
      // Where it steps, a difference across the step is none.
      const errors = errorsOf(b, root).sort((x, y) => x - y);
      expect([kind, width, errors[Math.floor(errors.length * 0.95)]! < 1e-5]).toEqual([kind, width, true]);
    }
  });

  it('of dot, vec and swizzle as well', () => {
    const b = new Builder();
    const uv = b.input('uv');
    const square = b.mul(uv, uv);
    for (const root of [b.dot(square, uv), b.vec(b.x(square), uv), b.swizzle(b.vec(square, uv), 3, 0, 1)])
      expect(Math.max(...errorsOf(b, root))).toBeLessThan(1e-7);
  });

  const smooth = OPERATIONS.flatMap((o) =>
    ['noise', 'maths', 'shaping', 'patterns', 'coordinates', 'colour'].includes(o.family) ? [o] : [],
  ).flatMap(({ name, example }) => {
    const { graph } = compile(example.replace(/\d(\.\d+)? laps/g, '0.7 laps'));
    const root = graph.outputs.get('color')!;
    const isPlain = !inOrder([root]).some((n) => n.kind === 'sample' || n.kind === 'derivative');
    return isPlain && isSmooth(root) && !/white|edge/.test(example) ? [{ name, b: graph.builder, root }] : [];
  });
  it('of many operations can be told', () => {
    expect(smooth.length).toBeGreaterThan(30);
  });
  it.each(smooth)('of $name are what central differences show, but at its kinks', ({ b, root }) => {
    const errors = errorsOf(b, root).sort((x, y) => x - y);
    expect(errors[Math.floor(errors.length * 0.9)]).toBeLessThan(2e-3);
  });

  it('call a noise once for its value and both derivatives', () => {
    const { graph } = compile('out normal = uv |> fbm(cells: 4, octaves: 3) |> bump(0.2)\n');
    const calls = inOrder([graph.outputs.get('normal')!]).filter((n) => n.kind === 'call');
    expect(calls).toHaveLength(3);
    expect(widthOf(calls[0]!.type)).toBe(3);
  });
});
