import { readdirSync, readFileSync } from 'node:fs';
import { expect, it } from '@jest/globals';
import { Proof, provenVerdicts } from '../src/index.ts';
import { checked } from './support.ts';

const folder = new URL('../../../docs/tasks/', import.meta.url);
const pages = readdirSync(folder)
  .filter((name) => name.endsWith('.md'))
  .map((name) => ({ name, text: readFileSync(new URL(name, folder), 'utf8') }));

it('the README links every page about a task', () => {
  const readme = readFileSync(new URL('../../README.md', folder), 'utf8');
  expect(pages.filter(({ name }) => !readme.includes(`docs/tasks/${name}`)).map(({ name }) => name)).toEqual([]);
  expect(pages).toHaveLength(9);
});

it.each(pages)(
  '$name has a picture that is there, and a material that can be opened and loops at every setting',
  ({ text }) => {
    const [, wake] = /```wake\n([\s\S]*?)```/.exec(text)!;
    const program = checked(wake!);
    expect(program.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
    for (const variant of [undefined, ...program.variants.map((v) => v.name)])
      expect(provenVerdicts(new Proof(program, variant)).whole.verdicts.loop).toBe('always');
    const [, picture] = /!\[[^\]]+\]\(([^)]+\.png)\)/.exec(text)!;
    expect(readFileSync(new URL(picture!, folder)).subarray(1, 4).toString()).toBe('PNG');
  },
);
