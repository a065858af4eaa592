import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from '@jest/globals';

const built = fileURLToPath(new URL('../dist/main.js', import.meta.url));
const cases = JSON.parse(readFileSync(new URL('../../core/test/conformance/cases.json', import.meta.url), 'utf8')) as {
  values: { id: string; wake: string; step: string; uv: number[]; time: number; expect: number[]; tol: number }[];
};
const folder = mkdtempSync(join(tmpdir(), 'estela-cli-'));

function estela(...args: string[]): { status: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [built, ...args], { encoding: 'utf8' });
  return { status, out: stdout, err: stderr };
}

function file(name: string, text: string): string {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
}

describe('estela eval', () => {
  it.each(cases.values)('gives the value of conformance case $id', ({ id, wake, step, uv, time, expect: wanted, tol }) => {
    const { status, out } = estela('eval', file(`${id}.wake`, wake), '--step', step, '--uv', uv.join(), '--time', String(time), '--json');
    expect(status).toBe(0);
    const { value } = JSON.parse(out) as { value: number[] };
    expect(value).toHaveLength(wanted.length);
    value.forEach((v, i) => expect(Math.abs(v - wanted[i]!)).toBeLessThanOrEqual(tol));
  });

  it('takes dials, switches and variants, and outputs by channel', () => {
    const path = file('dials.wake', 'dial k = 1 in 0..9\nswitch s = on\nout color = k + s * 10\nvariant "Two" { k = 2, s = off }\n');
    const value = (...more: string[]): number[] =>
      (JSON.parse(estela('eval', path, '--step', 'out.color', '--json', ...more).out) as { value: number[] }).value;
    expect(value()).toEqual([11, 11, 11, 1]);
    expect(value('--variant', 'Two')).toEqual([2, 2, 2, 1]);
    expect(value('--variant', 'Two', '--set', 'k=3', '--set', 's=on')).toEqual([13, 13, 13, 1]);
  });

  it.each([
    [['--step', 'nothing'], 1, 'no step'],
    [['--step', 'out.color', '--uv', '1'], 2, '--uv'],
    [['--step', 'out.color', '--set', 'x=1'], 2, "named 'x'"],
    [['--step', 'out.color', '--set', 'k=red'], 2, 'takes a number'],
    [['--step', 'out.color', '--variant', 'None'], 2, '"None"'],
  ])('says what is wrong with %j', (args, status, words) => {
    const run = estela('eval', file('plain.wake', 'dial k = 1\nout color = k\n'), ...args);
    expect(run.status).toBe(status);
    expect(run.err).toContain(words);
  });
});

describe('estela check', () => {
  it('prints a report as JSON, with places, mends and dials in their own units', () => {
    const path = file(
      'bad.wake',
      'loop 2s at 30fps\ndial go: rate = 0.5/s in -1/s..1/s "Pace"\nimage i = "none.png"\na = uv |> pan(0.3)\nout color = a |> sample(i)\n',
    );
    const { status, out } = estela('check', path, '--json');
    expect(status).toBe(1);
    expect(JSON.parse(out)).toMatchObject({
      ok: false,
      loop: { seconds: 2, fps: 30, frames: 60 },
      diagnostics: [
        { code: 'image-missing', severity: 'warning', line: 3 },
        {
          code: 'argument-type',
          severity: 'error',
          line: 4,
          column: 15,
          mends: [{ title: 'Write 0.3/s', edits: [{ insert: '/s' }] }, { title: 'Write 0.3 laps' }],
        },
      ],
      dials: [{ name: 'go', type: 'rate', default: 0.5, min: -1, max: 1, help: 'Pace' }],
    });
  });

  it('prints a line for each finding otherwise, and knows missing files', () => {
    expect(estela('check', file('good.wake', 'out color = 1\n'))).toMatchObject({ status: 0 });
    const bad = estela('check', file('worse.wake', 'out color = nothing\n'));
    expect(bad.status).toBe(1);
    expect(bad.out).toContain("worse.wake:1:13: error: There is no value named 'nothing' here.");
    expect(estela('check', join(folder, 'absent.wake'))).toMatchObject({ status: 2 });
  });
});
