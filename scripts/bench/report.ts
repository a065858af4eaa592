import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { cpus, loadavg } from 'node:os';
import { join } from 'node:path';
import type { Pair } from './timing.ts';

/** One line of the report. */
export interface Row {
  readonly what: string;
  readonly reach: string;
  readonly reached: string;
  readonly ok: boolean;
  readonly how: string;
}

export const fixed = (value: number, digits = 2): string => value.toFixed(digits);
/** The spread of the ratios, in words. */
export const spreadOf = ({ spread: [least, most] }: Pick<Pair, 'spread'>, digits = 1): string =>
  `${fixed(least, digits)}x to ${fixed(most, digits)}x`;
/** The same of a pair whose ratio is told the other way round. */
export const turnedSpread = ({ spread: [least, most] }: Pair): string => spreadOf({ spread: [1 / most, 1 / least] });

const rule = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`;

/** What the machine is, and how busy others keep it. */
export interface Machine {
  readonly load: number;
}
export const machine = (): Machine => ({ load: loadavg()[0]! });

/** Writes docs/performance.md: the rows; the Stage's times; why some rows may fall short. */
export function writeReport(
  root: string,
  { load }: Machine,
  rows: readonly Row[],
  stage: readonly (Pair & { readonly material: string })[],
  why: string,
): string {
  const version = execFileSync('/usr/bin/chromium', ['--version'], { encoding: 'utf8' }).trim();
  const milliseconds = (of: 'one' | 'other'): string =>
    fixed(
      stage.reduce((sum, s) => sum + s[of], 0),
      0,
    );
  const text = `# Performance

Written by \`npm run bench\`; every ratio is of two things measured side by side in one run, turn by turn where both can run then:
the median of the ratios of neighbours, and how far they spread. Wall times are of one machine and swing; the ratios are what
counts.

Last run: ${new Date().toISOString().slice(0, 10)}, ${String(cpus().length)} cores (${cpus()[0]?.model.trim() ?? 'unknown'}), load ${fixed(load)} before it began, Node ${process.version}, ${version}.

| what | to reach | reached | | measured |
|---|---|---|---|---|
${rows.map(({ what, reach, reached, ok, how }) => rule([what, reach, `**${reached}**`, ok ? 'yes' : 'no', how])).join('\n')}

## The Stage without a graphics card

Milliseconds of a frame of all outputs at 512 x 512, drawn by Chromium's software renderer: the state before (eb499b0) with its
texts, and now.

| material | before | now | |
|---|---|---|---|
${stage.map((s) => rule([s.material, fixed(s.other, 0), fixed(s.one, 0), `${fixed(1 / s.ratio, 1)}x (${turnedSpread(s)})`])).join('\n')}
| all | ${milliseconds('other')} | ${milliseconds('one')} | |

${why}`;
  writeFileSync(join(root, 'docs/performance.md'), text);
  return text;
}
