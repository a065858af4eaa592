import { applyEdits, type TextEdit } from '@estela/core';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { lineOfStep } from '../src/bench/card/calls.ts';
import { derive } from '../src/material/look.ts';
import { ARC_PER_LAP, handlesOf, type Handle } from '../src/bench/stage/handles.ts';

/** The handles of the first step of a text. */
function handles(text: string, variant?: string): Handle[] {
  const { program, look, ok, diagnostics } = derive(text);
  if (!ok) throw new Error(`${text}: ${diagnostics.map((d) => d.message).join()}`);
  const index = program.steps.findIndex((s) => s.kind === 'step');
  return handlesOf(program, look, lineOfStep(program, index)!, index, variant).map((h) => h.handle);
}
const text = (stages: string): string =>
  `dial speed: laps = 1 in -8..8\nflow = uv ${stages}\nout color = flow |> checker(2)\nvariant "Slow" { }\n`;
const after = (before: string, edits: TextEdit[]): string => {
  const next = applyEdits(before, edits);
  expect(derive(next).ok).toBe(true);
  return next;
};
const one = <K extends Handle['kind']>(text: string, kind: K): Extract<Handle, { kind: K }> =>
  handles(text).find((h): h is Extract<Handle, { kind: K }> => h.kind === kind)!;

const figure = (low: number, high: number): fc.Arbitrary<number> =>
  fc.integer({ min: low * 100, max: high * 100 }).map((v) => v / 100);
const place = (low: number, high: number): fc.Arbitrary<readonly [number, number]> =>
  fc.tuple(figure(low, high), figure(low, high));
const how = { straight: false, free: false };
const close = (a: readonly number[], b: readonly number[], by: number): void => {
  b.forEach((v, i) => {
    expect(Math.abs(a[i]! - v)).toBeLessThanOrEqual(by);
  });
};

describe('what a hand drags on the Stage is written so that it lies where it was let go', () => {
  it('the arrow of a pan: whole laps and degrees, or anything where it is free', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -6, max: 6 }),
        fc.integer({ min: 0, max: 359 }),
        place(-6, 6),
        fc.boolean(),
        (rate, heading, to, free) => {
          const before = text(`|> pan(${String(rate)} laps, heading: ${String(heading)}deg) |> tile(2)`);
          const way = Math.hypot(...to);
          fc.pre(way > 0.5);
          const written = after(before, one(before, 'arrow').drag(to, { ...how, free }));
          expect(written).toContain('|> tile(2)');
          const { vector } = one(written, 'arrow');
          const length = Math.hypot(...vector);
          expect(Math.abs(length - way)).toBeLessThanOrEqual(free ? 0.006 : 0.501);
          if (!free) expect(length).toBeCloseTo(Math.round(length), 6);
          // The heading is a whole degree away at most.
          if (length > 0)
            expect(Math.cos(Math.atan2(vector[1], vector[0]) - Math.atan2(to[1], to[0]))).toBeGreaterThan(
              Math.cos((0.51 * Math.PI) / 180),
            );
        },
      ),
      { numRuns: 40 },
    );
  });

  it('points, arcs, boxes and offsets, whether their arguments are written yet or not', () => {
    fc.assert(
      fc.property(
        place(-1, 2),
        place(-1, 2),
        figure(-0.9, 0.9),
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 9 }),
        fc.boolean(),
        (from, to, turns, n, m, given) => {
          const pivot = given ? `, pivot: (${from.join(', ')})` : '';
          let before = text(`|> turn(30deg${pivot})`);
          close(one(after(before, one(before, 'point').drag(to)), 'point').at, to, 0.0051);
          close([one(after(before, one(before, 'arc').drag(turns, how)), 'arc').turns], [turns], 0.5 / 360 + 1e-6);
          before = text(`|> spin(1 lap${pivot})`);
          close(
            [one(after(before, one(before, 'arc').drag(turns, { ...how, free: true })), 'arc').turns / ARC_PER_LAP],
            [turns / ARC_PER_LAP],
            0.0051,
          );
          before = text(given ? '|> tile(3, 5)' : '|> tile(3)');
          close(
            one(after(before, one(before, 'box').drag([1 / n, 1 / m])), 'box').corner,
            given ? [1 / n, 1 / m] : [1 / n],
            1e-6,
          );
          before = text(given ? '|> offset(0.1, 0.2)' : '|> offset(0.1)');
          close(one(after(before, one(before, 'arrow').drag(to, how)), 'arrow').vector, given ? to : [to[0]], 0.0051);
        },
      ),
      { numRuns: 25 },
    );
  });

  it('what stands in a dial is written there, held to its range, and for a variant in the variant', () => {
    const before = text('|> pan(speed, heading: 90deg)');
    const drag = (variant: string | undefined, laps: number): string =>
      applyEdits(
        before,
        handles(before, variant)
          .find((h) => h.kind === 'arrow')!
          .drag([0, laps], how),
      );
    expect(drag(undefined, 3)).toContain('dial speed: laps = 3 in -8..8');
    expect(drag(undefined, 30)).toContain('dial speed: laps = 8 in -8..8');
    expect(drag('Slow', 2)).toMatch(/laps = 1 in -8\.\.8[^]*variant "Slow" \{ speed = 2 \}/);
  });

  it('nothing is taken hold of where a stage is off, or an argument is worked out', () => {
    expect([handles(text('|> off pan(1 lap)')), handles(text('|> pan(speed * 2, heading: 0deg)'))]).toEqual([[], []]);
  });
});
