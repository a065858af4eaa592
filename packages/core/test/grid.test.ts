import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { GridEvaluator } from '../src/backends/wasm/grid/evaluator.ts';
import { ADDRESSES, costOfAll, KEPT_PLANE } from '../src/backends/wasm/grid/costs.ts';
import { termsAt } from '../src/backends/wasm/grid/places.ts';
import { Plan, type GridPasses, type GridSize } from '../src/backends/wasm/grid/plan.ts';
import { inFours, type Table } from '../src/backends/wasm/grid/tables.ts';
import type { Rate, Term } from '../src/backends/wasm/grid/terms.ts';
import { rowsOf } from '../src/backends/wasm/rows.ts';
import { compile, OPERATIONS, settingValues, WasmEvaluator } from '../src/index.ts';
import { widthOf, type Node } from '../src/ir/node.ts';
import { lower } from '../src/lower/lower.ts';
import { checked, demoMaterials, starts } from './support.ts';
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

/** Each pass on or off, in every combination. */
const COMBINATIONS: readonly GridPasses[] = Array.from({ length: 32 }, (_, bits) => {
  const [rates, tables, lines, lattices, stills] = [1, 2, 4, 8, 16].map((bit) => (bits & bit) !== 0);
  return { rates, tables, lines, lattices, stills };
});

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

/** What a plan takes for four pixels, in instructions: the mean over some frames, by what the passes choose by. */
function costOfPlan(plan: Plan, { width, rows, frames }: GridSize): number {
  const pixels = width * rows;
  const perPixel = (order: readonly Term[]): number => {
    const keys = new Set<unknown>();
    const tables = new Set(order.flatMap((term) => plan.lookups.get(term)?.table ?? []));
    return order.reduce((sum, term) => {
      const key = plan.reading.keyOf(term);
      if (key !== undefined && keys.has(key)) return sum;
      keys.add(key);
      return sum + plan.reading.costOf(term);
    }, tables.size * ADDRESSES);
  };
  const filled = (tables: readonly Table[]): number =>
    tables.reduce((sum, table) => {
      const { fill, lines } = plan.pieces.get(table)!;
      const [across, down] = table.counts;
      if (table.indices.length > 1) return sum + (costOfAll(fill) * inFours(across) * down) / pixels;
      const stays = lines.length === 0 ? 0 : costOfAll(lines) * Math.min(1, 16 / rows);
      return sum + ((costOfAll(fill) + stays) * across) / width;
    }, 0);
  const times = [1 / pixels, 1 / rows, 1 / width, 1];
  const kept = [0, 1, 2].map((rate) => costOfAll(termsAt([...plan.kept], rate as Rate)) * times[rate]!);
  return (
    perPixel(plan.order) +
    KEPT_PLANE * plan.stills.size +
    (perPixel(plan.stillOrder) + filled(plan.stillTables)) / frames +
    filled([...plan.tables, ...plan.lattices]) +
    kept.reduce((sum, part) => sum + part, 0)
  );
}

it('passes take less together than without them, or as much, by what they choose by', () => {
  const size = { width: 256, rows: 256, frames: 48 };
  const texts = [...OPERATIONS.map(({ name, example }) => ({ name, text: example })), ...demoMaterials, ...starts];
  let [sum, plain] = [0, 0];
  for (const { name, text } of texts) {
    const roots = [...lower(checked(text), settingValues(checked(text)).switches).outputs.values()];
    const cost = (passes: GridPasses): number => costOfPlan(new Plan(roots, size, passes), size);
    const [all, none] = [cost({}), cost({ rates: false, tables: false, lattices: false, stills: false })];
    expect([name, all <= none / 0.97]).toEqual([name, true]);
    [sum, plain] = [sum + all, plain + none];
  }
  expect(sum).toBeLessThan(plain * 0.6);
});

it('code for grids is made where there are pixels enough', () => {
  const { graph } = compile('out color = uv |> fbm(4)\n');
  const madeFor = (width: number, rows: number, frames: number): boolean =>
    rowsOf([...graph.outputs.values()], () => undefined, { width, rows, frames }) instanceof GridEvaluator;
  expect([madeFor(256, 256, 1), madeFor(256, 256, 4), madeFor(512, 512, 1)]).toEqual([false, true, true]);
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
  const cases = [
    ...OPERATIONS.map((o) => ({ name: o.name, text: o.example, some: ALL })),
    ...demoMaterials.map((demo) => ({ ...demo, some: COMBINATIONS })),
    ...starts.map((start) => ({ ...start, some: ALL.slice(0, 1) })),
  ];
  it.each(cases)('$name', ({ text, some }) => {
    const program = checked(text);
    for (const variant of [undefined, ...program.variants.map((v) => v.name)]) {
      const { dials, switches } = settingValues(program, variant);
      const roots = [...lower(program, switches).outputs.values()];
      for (const passes of variant === undefined ? some : ALL.slice(0, 1))
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
