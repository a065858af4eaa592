import { readFileSync } from 'node:fs';
import { expect, it } from '@jest/globals';
import fc from 'fast-check';
import { findWitnesses, lower, materialVerdicts, settingValues, SHIFTS, type Shift, type Verdict } from '../src/index.ts';
import { checked, demoMaterials } from './support.ts';

interface VerdictCase {
  readonly id: string;
  readonly wake: string;
  readonly expect: Partial<Record<Shift, Verdict>>;
}
const cases = (JSON.parse(readFileSync(new URL('conformance/cases.json', import.meta.url), 'utf8')) as { verdicts: VerdictCase[] }).verdicts;

it.each(cases)('the verdicts of $id are those of the contract', ({ wake, expect: wanted }) => {
  expect(materialVerdicts(checked(wake)).verdicts).toMatchObject(wanted);
});

it.each(demoMaterials)('what is said of $name is borne out', ({ text }) => {
  const program = checked(text);
  const { verdicts } = materialVerdicts(program);
  expect(verdicts.loop).toMatch(/always|present|unproven/);
});

/** Moves, noises and shapes that close, nearly close, or do not. */
const rate = fc.oneof(
  fc.integer({ min: -3, max: 3 }).map((n) => `${String(n)} laps`),
  fc.constantFrom('0.25/s', '0.5/s', '0.3/s', '0.5 laps', 'go', 'go * 2', 'free', 'go * k'),
);
const stage = fc.oneof(
  rate.map((r) => `pan(${r}, heading: 0deg)`),
  fc.tuple(rate, fc.constantFrom('30deg', '90deg', '180deg', 'lean')).map(([r, h]) => `pan(${r}, heading: ${h})`),
  fc.tuple(rate, rate).map(([r, u]) => `pan(right: ${r}, up: ${u})`),
  rate.map((r) => `spin(${r})`),
  fc.constantFrom('tile(2, 3)', 'tile(1.5, 2)', 'turn(90deg)', 'turn(20deg)', 'flip(u)', 'scale(0.5)', 'offset(0.2, k)', 'offset(wave(1 laps), 0)', 'polar()'),
  rate.map((r) => `distort(uv |> value(cells: 3, evolve: ${r}), amount: 0.1)`),
);
const end = fc.oneof(
  rate.map((r) => `fbm(cells: 3, octaves: 2, evolve: ${r})`),
  fc.constantFrom(
    'gradient(cells: 4)',
    'cellular(cells: 3)',
    'simplex(cells: 4)',
    'checker(2)',
    'stripes(3)',
    'disc(0.3)',
    'white(cells: 5)',
    'linear_gradient(90deg)',
  ),
  rate.map((r) => `specks(cells: 4, rate: ${r})`),
);
const after = fc.constantFrom(
  '',
  ' |> hold(10 frames)',
  ' |> hold(7 frames)',
  ' |> weave(1s)',
  ' |> reverse()',
  ' |> delay(0.5s)',
  ' |> retime(time * 2)',
  ' |> rise(0.2, 0.8)',
);
const DIALS =
  'loop 4s at 30fps\ndial go: laps = 2 in -4..4\ndial free: rate = 0.5/s in -2/s..2/s\ndial k = 0.5 in 0..2\ndial lean: angle = 90deg in 0deg..360deg\nswitch flick = on\n';
const material = fc
  .tuple(fc.array(stage, { maxLength: 3 }), end, after, fc.constantFrom('n', 'n * wave(1 laps)', 'n * wave(1.5 laps)', 'n + flick * saw(0.3/s)', 'n * uv.x'))
  .map(([stages, last, then, out]) => `${DIALS}n = ${['uv', ...stages, last].join(' |> ')}${then}\nout color = ${out}\n`);

it('no claim over random materials is false, in the present setting and in others', () => {
  let claims = 0;
  fc.assert(
    fc.property(material, fc.integer({ min: -4, max: 4 }), fc.integer({ min: 0, max: 20 }), fc.boolean(), (text, go, tenths, flick) => {
      const program = checked(text);
      if (!program.ok) return;
      const { verdicts } = materialVerdicts(program);
      const present = settingValues(program);
      const others = {
        dials: new Map([...present.dials, ['go', [go]], ['free', [tenths / 5]], ['k', [tenths / 10]], ['lean', [tenths / 20]]]),
        switches: new Map([['flick', flick]]),
      };
      const seen = findWitnesses(lower(program, present.switches), present.dials);
      const elsewhere = findWitnesses(lower(program, others.switches), others.dials);
      for (const shift of SHIFTS) {
        if (verdicts[shift] === 'present' || verdicts[shift] === 'always') {
          claims++;
          expect([text, shift, seen[shift]]).toEqual([text, shift, undefined]);
        }
        if (verdicts[shift] === 'always') expect([text, shift, elsewhere[shift]]).toEqual([text, shift, undefined]);
      }
    }),
    { numRuns: 200 },
  );
  expect(claims).toBeGreaterThan(150);
});
