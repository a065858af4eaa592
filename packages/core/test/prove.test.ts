import { readFileSync } from 'node:fs';
import { expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  findWitnesses,
  materialVerdicts,
  settingValues,
  SHIFTS,
  type Program,
  type SettingValues,
  type Shift,
  type Verdict,
  type Witness,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { anyMaterial, closingMaterial } from './random-loops.ts';
import { Shifts } from '../src/prove/shifts.ts';
import { checked, demoMaterials, graphOf } from './support.ts';

interface VerdictCase {
  readonly id: string;
  readonly wake: string;
  readonly expect: Partial<Record<Shift, Verdict>>;
}
const cases = (
  JSON.parse(readFileSync(new URL('conformance/cases.json', import.meta.url), 'utf8')) as { verdicts: VerdictCase[] }
).verdicts;

it.each(cases)('the verdicts of $id are those of the contract', ({ wake, expect: wanted }) => {
  expect(materialVerdicts(checked(wake)).verdicts).toMatchObject(wanted);
});

it.each(demoMaterials)('what is said of $name is borne out', ({ text }) => {
  const program = checked(text);
  const { verdicts } = materialVerdicts(program);
  // Two are broken on purpose.
  expect(verdicts.loop).toMatch(/Stray haze|Lame beacon/.test(text) ? /open/ : /always|present|unproven/);
});

/** More by hand: ESTELA_PROVER_RUNS=10000 npx jest ... */
const RUNS = Number(process.env.ESTELA_PROVER_RUNS ?? 200);

const seenIn = (program: Program, { dials, switches }: SettingValues): Partial<Record<Shift, Witness>> =>
  findWitnesses([{ node: lower(program, switches).outputs.get('color')! }], program.loop.seconds, dials)[0]!;

it('no claim over random materials is false, in the present setting and in others', () => {
  let claims = 0;
  fc.assert(
    fc.property(
      anyMaterial,
      fc.integer({ min: -4, max: 4 }),
      fc.integer({ min: 0, max: 20 }),
      fc.boolean(),
      (text, go, tenths, flick) => {
        const program = checked(text);
        if (!program.ok) return;
        const { verdicts } = materialVerdicts(program);
        const present = settingValues(program);
        const others = {
          dials: new Map([
            ...present.dials,
            ['go', [go]],
            ['free', [tenths / 5]],
            ['k', [tenths / 10]],
            ['lean', [tenths / 20]],
          ]),
          switches: new Map([['flick', flick]]),
        };
        const seen = seenIn(program, present);
        const elsewhere = seenIn(program, others);
        for (const shift of SHIFTS) {
          if (verdicts[shift] === 'present' || verdicts[shift] === 'always') {
            claims++;
            expect([text, shift, seen[shift]]).toEqual([text, shift, undefined]);
          }
          if (verdicts[shift] === 'always') expect([text, shift, elsewhere[shift]]).toEqual([text, shift, undefined]);
        }
      },
    ),
    { numRuns: RUNS },
  );
  expect(claims).toBeGreaterThan(0.75 * RUNS);
});

it('of materials that are built to close, at least 95 in 100 are proven', () => {
  let [built, proven] = [0, 0];
  fc.assert(
    fc.property(closingMaterial, (text) => {
      const program = checked(text);
      expect([text, program.diagnostics.filter((d) => d.severity === 'error').map((d) => d.message)]).toEqual([
        text,
        [],
      ]);
      const { loop } = materialVerdicts(program).verdicts;
      expect([text, loop]).not.toEqual([text, 'open']);
      built++;
      if (loop === 'always' || loop === 'present') proven++;
    }),
    { numRuns: RUNS },
  );
  expect(proven / built).toBeGreaterThanOrEqual(0.95);
});

it('what evolves by a dial of whole laps closes at every setting, and by another rate it does not', () => {
  const loopOf = (dial: string, use: string): Verdict =>
    materialVerdicts(checked(`loop 4s at 30fps\ndial go: ${dial}\nout color = ${use}\n`)).verdicts.loop;
  for (const use of [
    'uv |> fbm(cells: 4, octaves: 3, evolve: go)',
    'uv |> value(cells: 3, evolve: go * 2)',
    'uv |> white(cells: 3, evolve: -go)',
    '(uv.x, uv.y, 0.3) |> cellular(cells: 5, evolve: go)',
    'uv |> simplex(cells: 5, evolve: go) |> retime(time)',
  ]) {
    expect([use, loopOf('laps = 2 in -4..4 by 1', use)]).toEqual([use, 'always']);
    // Half laps are no period of their own, and a rate per second never comes back.
    expect([use, loopOf('laps = 2 in -4..4 by 0.5', use)]).toEqual([use, 'present']);
    expect([use, loopOf('rate = 0.5/s in 0/s..2/s', use)]).not.toEqual([use, 'always']);
  }
});

it('a period is known by what its maker says of it, not by how its graph is spelled', () => {
  const graph = graphOf('loop 4s at 30fps\ndial go: laps = 2 in -4..4 by 1\nout color = 1\n');
  const { builder: b } = graph;
  const n = b.uniform({ dial: 'go' });
  const index = b.floor(b.mul(graph.context.loops, b.mul(3, n)));
  const spelled = [
    b.max(b.abs(b.mul(n, 3)), 1),
    b.max(1, b.mul(b.abs(n), 3)),
    b.select(b.lt(b.abs(n), 0.5), 1, b.abs(b.mul(b.neg(n), 3))),
  ];
  for (const period of spelled) {
    const returns = (times: number): boolean =>
      new Shifts(graph, 'loop', new Map()).returns(b.modKnown(index, period, n, { times }));
    expect([1, 3].map(returns)).toEqual([true, true]);
    expect([2, 4, 6].map(returns)).toEqual([false, false, false]);
    expect(new Shifts(graph, 'loop', new Map()).returns(b.mod(index, period))).toBe(false);
  }
});

it('switches are proven as they are left open, however many, and one by one where that fails', () => {
  const many = Array.from({ length: 9 }, (_, i) => `switch w${String(i)} = on`).join('\n');
  const loopOf = (value: string): Verdict =>
    materialVerdicts(checked(`loop 4s at 30fps\n${many}\ndial go: laps = 1 in 0..4 by 1\nout color = ${value}\n`))
      .verdicts.loop;
  expect(loopOf('wave(mix(1 lap, 3 laps, w0)) * w1 + w2 * saw(go * w3) + w8')).toBe('always');
  expect(loopOf('saw(mix(1 lap, 1.5 laps, w0))')).not.toBe('always');
  const few = (value: string): Verdict =>
    materialVerdicts(checked(`loop 4s at 30fps\nswitch a = on\nswitch b = on\nout color = ${value}\n`)).verdicts.loop;
  // Only with a as 0 or 1 is a * a - a nothing.
  expect(few('saw(0.5/s * (1 + 0.3 * (a * a - a)))')).toBe('always');
  expect(few('saw(0.5/s * (1 + 0.3 * (a - b)))')).toBe('present');
});
