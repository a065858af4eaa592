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
import { checked, demoMaterials } from './support.ts';

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
