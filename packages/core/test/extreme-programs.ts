import fc from 'fast-check';
import { compile, WasmEvaluator } from '../src/index.ts';
import { inOrder, widthOf, type Node } from '../src/ir/node.ts';

/** Texts whose values overflow, vanish and are no numbers on their way. */
export const extremeProgram: fc.Arbitrary<string> = fc
  .tuple(
    fc.array(
      fc.tuple(
        fc.constantFrom(
          'A + B',
          'A - B',
          'A * B',
          'A / B',
          'A * A * B',
          'mod(A, B)',
          'min(A, B)',
          'max(B, A)',
          'clamp(A, B, LIT)',
          'mix(A, B, LIT)',
          'fract(A)',
          'floor(A)',
          'sign(A) + abs(B)',
          'sqrt(A)',
          'exp(A)',
          'log(A)',
          'sin(A)',
          'cos(A) * B',
          'atan(A, B) / 1turn',
          'A |> power(LIT)',
          '(A, B) |> value(cells: 3)',
          '(A, B) |> white(cells: 5, seed: LIT)',
          '(A, B) |> cellular(cells: (LIT, 4))',
          '((A, B) |> sample(pic)).x',
          '((A, B) |> tile(2) |> sample(near)).y * A',
          'uv |> value(cells: A)',
        ),
        fc.nat(99),
        fc.nat(99),
        fc.constantFrom(
          '0',
          '1',
          '-1',
          '0.5',
          '1e-45',
          '-3e38',
          '3.4e38',
          '1e20',
          '-1e19',
          '1e-30',
          '16777217',
          '70000',
        ),
      ),
      { minLength: 3, maxLength: 9 },
    ),
  )
  .map(([lines]) => {
    const names = ['uv.x', 'uv.y * 3e38', '1e30 / uv.x', 'uv.x - 0.5'];
    const steps = lines.map(([form, a, b, literal], i) => {
      const value = form
        .replace(/\bA\b/g, `(${names[a % names.length]!})`)
        .replace(/\bB\b/g, `(${names[b % names.length]!})`)
        .replace(/\bLIT\b/g, literal);
      names.push(`s${String(i)}`);
      return `s${String(i)} = ${value}`;
    });
    const images = 'image pic = "a" mirror linear data\nimage near = "b" repeat nearest data\n';
    return `${images}${steps.join('\n')}\nout color = ${names.at(-1)!}\n`;
  });

/**
 * Whether all that is computed on the way to a material's outputs is zero or a normal 32-bit float, at a grid of so many
 * pixels a side: as far as shaders promise anything.
 */
export function isOrdinary(text: string, side: number): boolean {
  const { graph } = compile(text);
  const { builder: b } = graph;
  const parts = (node: Node): Node[] =>
    node.type.startsWith('f') ? Array.from({ length: widthOf(node.type) }, (_, i) => b.swizzle(node, i)) : [];
  const roots = inOrder([...graph.outputs.values()])
    .filter((n) => n.frequency === 'pixel')
    .flatMap(parts)
    .map((x) => b.select(b.eq(x, 0), 1, b.select(b.and(b.le(1.2e-38, b.abs(x)), b.lt(b.abs(x), 3.4e38)), 1, 0)));
  const evaluator = new WasmEvaluator(roots);
  evaluator.setFrame({ time: 0, dials: new Map() });
  return evaluator.picture(side, side).every((plane) => plane.every((v) => v === 1));
}
