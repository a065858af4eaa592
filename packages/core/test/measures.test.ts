import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  applyEdits,
  findWitnesses,
  flowPlaces,
  heldArgument,
  randomValues,
  settingValues,
  stagesOf,
  type Shift,
} from '../src/index.ts';
import { checked, graphOf } from './support.ts';

interface VerdictCase {
  readonly id: string;
  readonly wake: string;
  readonly expect: Partial<Record<Shift, 'always' | 'present' | 'open' | 'unproven'>>;
}
const cases = (
  JSON.parse(readFileSync(new URL('conformance/cases.json', import.meta.url), 'utf8')) as { verdicts: VerdictCase[] }
).verdicts;

describe('witnesses', () => {
  it.each(cases)('of $id are found where it opens and nowhere else', ({ wake, expect: verdicts }) => {
    const graph = graphOf(wake);
    const found = findWitnesses(
      [{ node: graph.outputs.get('color')! }],
      graph.program.loop.seconds,
      settingValues(graph.program).dials,
    )[0]!;
    for (const [shift, verdict] of Object.entries(verdicts) as [Shift, string][]) {
      if (verdict === 'open') expect([shift, found[shift]?.difference]).toEqual([shift, expect.any(Number)]);
      if (verdict === 'always' || verdict === 'present') expect([shift, found[shift]]).toEqual([shift, undefined]);
    }
  });
});

describe('places of what flows into a call', () => {
  const stage = fc.oneof(
    fc
      .tuple(fc.integer({ min: 1, max: 5 }), fc.integer({ min: 1, max: 5 }))
      .map(([n, m]) => `tile(${String(n)}, ${String(m)})`),
    fc.integer({ min: -180, max: 180 }).map((a) => `turn(${String(a)}deg)`),
    fc.integer({ min: 2, max: 30 }).map((f) => `scale(${String(f / 10)})`),
    fc
      .tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 }))
      .map(([x, y]) => `offset(${String(x / 10)}, ${String(y / 10)})`),
    fc.constantFrom('flip(u)', 'flip(both)'),
  );
  it('are found again through any chain of moves', () => {
    fc.assert(
      fc.property(
        fc.array(stage, { maxLength: 4 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (stages, x, y) => {
          const graph = graphOf(
            `flow = ${['uv', ...stages, 'swirl(10deg)'].join(' |> ')}\nout color = flow |> disc(0.2)\n`,
          );
          const places = flowPlaces(graph, 0, 'swirl', 0, { time: 0, dials: new Map() })!;
          const uv = places.placeOf([x, y]);
          if (!uv) throw new Error('no place');
          const [u, v] = places.coordinateAt(uv);
          expect(Math.hypot(u - x, v - y)).toBeLessThan(1e-3);
        },
      ),
      { numRuns: 100 },
    );
  });
});

describe('an argument in the hand', () => {
  const held = (
    text: string,
    name: string,
    variant?: string,
  ): { value: readonly number[] | undefined; write: (v: readonly number[]) => string } => {
    const program = checked(text);
    const statement = program.tree.statements.find((s) => s.kind === 'step');
    if (statement?.kind !== 'step') throw new Error('no step');
    const stage = stagesOf(statement.value).stages.at(-1)!;
    const found = heldArgument(program, statement, stage.call, true, name, variant);
    return { value: found?.value, write: (v) => applyEdits(text, found!.write(v)) };
  };
  it('is read and written where it stands: as a literal, in its unit', () => {
    expect(held('a = uv |> pan(0.5/s, heading: 90deg)\n', 'rate').value).toEqual([2]);
    expect(held('a = uv |> pan(0.5/s, heading: 90deg)\n', 'rate').write([3])).toBe(
      'a = uv |> pan(0.75/s, heading: 90deg)\n',
    );
    expect(held('a = uv |> pan(2 laps, heading: 90deg)\n', 'heading').write([0.5])).toBe(
      'a = uv |> pan(2 laps, heading: 180deg)\n',
    );
  });
  it('left out: its default, written by name once it differs, and left out again', () => {
    expect(held('a = uv |> spin(1 lap)\n', 'pivot').value).toEqual([0.5, 0.5]);
    expect(held('a = uv |> spin(1 lap)\n', 'pivot').write([0.25, 1])).toBe('a = uv |> spin(1 lap, pivot: (0.25, 1))\n');
    expect(held('a = uv |> spin(1 lap, pivot: (0.25, 1))\n', 'pivot').write([0.5, 0.5])).toBe(
      'a = uv |> spin(1 lap)\n',
    );
  });
  it('in a dial: its default, or a variant of it, held to the range', () => {
    const text = 'dial go: laps = 2 in -3..3\na = uv |> pan(go)\nvariant "Fast" { go = 3 }\n';
    expect(held(text, 'rate').write([9])).toContain('laps = 3 in');
    expect(held(text, 'rate', 'Fast').value).toEqual([3]);
    expect(held(text, 'rate', 'Fast').write([1])).toContain('{ go = 1 }');
    expect(held('a = uv |> pan(1 lap * 2)\n', 'rate').value).toBeUndefined();
  });
});

it('random values lie in the ranges and in their steps, the same for a seed', () => {
  const program = checked(
    'dial a = 0.2 in -1..1\ndial b: laps = 1 in -4..4\ndial c: vec2 = (0, 0) in 0..2 by 0.5\ndial d: color = #ffffff\n',
  );
  const seen = new Set<string>();
  for (let seed = 0; seed < 200; seed++) {
    const values = randomValues(program, seed);
    expect([...randomValues(program, seed)]).toEqual([...values]);
    const text = [...values].map(([n, v]) => `${n} = ${v}`).join(', ');
    expect(checked(`${program.tree.text}variant "X" { ${text} }\nout color = a\n`).diagnostics).toEqual([]);
    seen.add(values.get('b')!);
  }
  expect([...seen].map(Number).sort((x, y) => x - y)).toEqual([-4, -3, -2, -1, 0, 1, 2, 3, 4]);
});
