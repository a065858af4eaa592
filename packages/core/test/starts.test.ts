import { expect, it } from '@jest/globals';
import { Proof, provenVerdicts } from '../src/index.ts';
import { startGroups } from '../../../demo/starts.ts';
import { checked, starts } from './support.ts';

it('there are some twenty starts', () => {
  expect(starts.length).toBeGreaterThanOrEqual(18);
});

it.each(starts)('$name is short, says what it is, and loops at every setting, in every variant', ({ text }) => {
  const program = checked(text);
  expect(program.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
  expect(text.split('\n').length).toBeLessThan(35);
  // Its second line is the sentence that is shown with it.
  expect(text.split('\n')[1]).toMatch(/^\/\/ [A-Z].*\.$/);
  expect(program.dials.length).toBeGreaterThan(0);
  for (const dial of program.dials) expect([dial.name, dial.help]).toEqual([dial.name, expect.stringMatching(/./)]);
  for (const variant of [undefined, ...program.variants.map((v) => v.name)])
    expect(provenVerdicts(new Proof(program, variant)).whole.verdicts.loop).toBe('always');
});

it('each start stands in one group, and each group names starts that are there', () => {
  expect(Object.values(startGroups).flat().sort()).toEqual(starts.map((s) => s.name.replace('.wake', '')).sort());
});
