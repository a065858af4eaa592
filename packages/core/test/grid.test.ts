import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { GridEvaluator } from '../src/backends/wasm/grid/evaluator.ts';
import { Plan, type GridPasses } from '../src/backends/wasm/grid/plan.ts';
import { compile, OPERATIONS, settingValues, WasmEvaluator } from '../src/index.ts';
import { widthOf, type Node } from '../src/ir/node.ts';
import { lower } from '../src/lower/lower.ts';
import { checked, demoMaterials } from './support.ts';
import { extremeProgram } from './extreme-programs.ts';
import { program } from './random-programs.ts';

const [WIDTH, HEIGHT] = [37, 11];
const ALL: readonly GridPasses[] = [
  {},
  { rates: false },
  { region: 0 },
  { region: 12 },
  { rates: false, region: 30 },
  { tables: false },
  { tables: false, rates: false, lattices: true, stills: false },
  { lines: false },
  { lattices: false },
  { stills: false },
  { tables: false, stills: false, region: 12 },
];

/** The first place where a grid differs, to the bit, from pixels that are computed one by one. */
function firstDifference(
  roots: readonly Node[],
  time: number,
  dials: ReadonlyMap<string, readonly number[]>,
  passes: GridPasses,
): string | undefined {
  const single = new WasmEvaluator(roots, () => undefined);
  single.setFrame({ time, dials });
  const wanted = single.picture(WIDTH, HEIGHT);
  const grid = new GridEvaluator(roots, () => undefined, { width: WIDTH, rows: HEIGHT, frames: 50, passes });
  const others = new Map([...dials].map(([name, value]) => [name, value.map((v) => v * 0.9 + 0.01)]));
  // What is kept of the second frame serves the third; of the first, it does not serve the second.
  for (const [moment, set] of [
    [time + 0.31, others],
    [time + 0.31, dials],
  ] as const) {
    grid.setFrame({ time: moment, dials: set });
    for (let y = 0; y < HEIGHT; y++) grid.row((y + 0.5) / HEIGHT, y);
  }
  grid.setFrame({ time, dials });
  for (let y = 0; y < HEIGHT; y++) {
    grid.row((y + 0.5) / HEIGHT, y);
    for (const [r, root] of roots.entries())
      for (let c = 0; c < widthOf(root.type); c++) {
        const plane = grid.outputPlane(r, c);
        for (let x = 0; x < WIDTH; x++) {
          const want = wanted[r]![(y * WIDTH + x) * widthOf(root.type) + c]!;
          if (!Object.is(plane[x]! + 0, want + 0))
            return `root ${String(r)}.${String(c)} at ${String(x)}, ${String(y)}: ${String(want)} and ${String(plane[x])}`;
        }
      }
  }
  return undefined;
}

it('lattices are looked up where cells are few beside pixels, and much is computed for each', () => {
  const tables = (text: string, width: number): number[] => {
    const { graph } = compile(`out color = ${text}\n`);
    const plan = new Plan([...graph.outputs.values()], { width, rows: width, frames: 1 }, { lattices: false });
    return plan.tables.map((table) => table.counts[0]);
  };
  expect(tables('uv |> gradient(cells: 6)', 256)).toEqual([6]);
  expect(tables('uv |> gradient(cells: 6)', 8)).toEqual([]);
  // What is turned lies on no rows, and squares are cheaper than looking them up.
  expect(tables('uv |> turn(30deg) |> gradient(cells: 6)', 256)).toEqual([]);
  expect(tables('uv |> checker(6)', 256)).toEqual([]);
});

it('a result that is looked up itself is looked up for each pixel too', () => {
  const heavy = 'sin(i * 3 + uv.y * 5) * cos(i + uv.y) * sin(i * 7 - uv.y) * cos(i * uv.y) * sin(i + 2 * uv.y)';
  const { graph } = compile(`i = floor(fract(uv.x) * 6)\na = ${heavy}\nb = a * uv.x\nout color = (a, b, 0)\n`);
  for (const roots of [[...graph.outputs.values()], [...new Set(graph.steps)]])
    expect(firstDifference(roots, 0.3, new Map(), {})).toBeUndefined();
});

it('what would take too much code is left to scattered pixels', () => {
  const steps = Array.from(
    { length: 60 },
    (_, i) => `a${String(i)} = uv |> turn(${String(i)}deg) |> fbm(5, octaves: 8)`,
  );
  const text = `${steps.join('\n')}\nout color = ${steps.map((_, i) => `a${String(i)}`).join(' + ')}\n`;
  const { graph, ok } = compile(text);
  expect(ok).toBe(true);
  expect(GridEvaluator.of([...graph.outputs.values()], () => undefined, { width: 64 })).toBeUndefined();
});

describe('the grid evaluator, with any of its passes, to the bit', () => {
  it.each([...OPERATIONS.map((o) => ({ name: o.name, text: o.example })), ...demoMaterials])('$name', ({ text }) => {
    const program = checked(text);
    for (const variant of [undefined, ...program.variants.map((v) => v.name)]) {
      const { dials, switches } = settingValues(program, variant);
      const roots = [...lower(program, switches).outputs.values()];
      for (const passes of ALL)
        expect([variant, passes, firstDifference(roots, 0.9, dials, passes)]).toEqual([variant, passes, undefined]);
    }
  });

  it('random and extreme programs', () => {
    fc.assert(
      fc.property(fc.oneof(program, extremeProgram), fc.constantFrom(...ALL), (text, passes) => {
        const { graph, values, ok } = compile(text);
        fc.pre(ok);
        const roots = [...new Set(graph.steps)];
        const difference = firstDifference(roots, 1.7, values.dials, passes);
        if (difference !== undefined) throw new Error(`${text}\n${difference}`);
      }),
      { numRuns: 150 },
    );
  });
});
