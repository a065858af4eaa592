import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { operationNamed } from '../src/index.ts';
import { checked, lineOf, valueAt } from './support.ts';

interface Cases {
  readonly values: readonly {
    readonly id: string;
    readonly wake: string;
    readonly step: string;
    readonly uv: number[];
    readonly time: number;
    readonly expect: number[];
    readonly tol: number;
  }[];
  readonly errors: readonly {
    readonly id: string;
    readonly wake: string;
    readonly error_line: number;
    readonly still_runs?: boolean;
  }[];
}
const cases = JSON.parse(readFileSync(new URL('conformance/cases.json', import.meta.url), 'utf8')) as Cases;
const usable = cases.values.filter((c) =>
  [...c.wake.matchAll(/\|> (\w+)/g)].every(([, name = '']) => operationNamed(name)),
);

describe('conformance', () => {
  it.each(usable)('value $id', ({ wake, step, uv, time, expect: wanted, tol }) => {
    expect(checked(wake).ok).toBe(true);
    const value = valueAt(wake, step, uv, time);
    expect(value).toHaveLength(wanted.length);
    value.forEach((v, i) => expect(Math.abs(v - wanted[i]!)).toBeLessThanOrEqual(tol));
  });

  it.each(cases.errors)('error $id', ({ wake, error_line, still_runs }) => {
    const errors = checked(wake).diagnostics.filter((d) => d.severity === 'error');
    expect(errors.map((d) => lineOf(wake, d.from))).toEqual([error_line]);
    if (still_runs) expect(valueAt(wake, 'color', [0.25, 0], 0)[0]).toBe(0.25);
  });
});
