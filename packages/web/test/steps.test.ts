import { describe, expect, it } from '@jest/globals';
import { check, compile, parse, shownColor, WasmEvaluator } from '@estela/core';
import { readLookedAt, withLookedAt } from '../src/bench/looked-at.ts';
import { derive } from '../src/material/look.ts';
import { indexOfStep, nearestStep, nextStep, stepLook, stepRefOf } from '../src/material/step-ref.ts';

const TEXT = [
  'dial k = 0.5 in 0..1',
  'a = uv.x * k',
  'a = a + 2',
  'off b = a * 3',
  'c = (0.2, 0.4, 0.6)',
  'n = uv |> fbm(cells: 2) |> bump(2)',
  'at = uv |> tile(2)',
  'out color = c',
  '',
].join('\n');
const program = check(parse(TEXT));

/** What a step looks like at one place, linear. */
function shown(name: string, uv: readonly number[]): number[] {
  const { graph } = compile(program);
  const evaluator = new WasmEvaluator([
    shownColor(
      graph,
      program.steps.findLastIndex((s) => s.name === name),
    ),
  ]);
  evaluator.setFrame({ time: 0, dials: new Map([['k', [0.5]]]) });
  const out = new Float32Array(4);
  evaluator.block({ uv: Float32Array.from(uv) }, 1, [out]);
  return [...out];
}
const value = (linear: number): number => linear ** (1 / 2.2);

describe('what a step looks like', () => {
  it('is its value on the screen: numbers grey, normals about 0.5, colours themselves', () => {
    expect(shown('a', [0.5, 0.5]).map((v) => Math.sign(v - 1))).toEqual([1, 1, 1, 0]);
    expect(shown('c', [0.1, 0.1])).toEqual([0.2, 0.4, 0.6, 1].map((v) => expect.closeTo(v, 6) as unknown as number));
    const normal = shown('n', [0.3, 0.3])
      .slice(0, 3)
      .map((v) => value(v) * 2 - 1);
    expect(Math.hypot(...normal)).toBeCloseTo(1, 3);
    const [red, green, blue] = shown('at', [0.57, 0.32]);
    expect([value(red!), value(green!), blue]).toEqual(
      [0.14, 0.64, 0].map((v) => expect.closeTo(v, 4) as unknown as number),
    );
  });
});

describe('a step alone', () => {
  it('is found by name and place while lines come and go', () => {
    const second = stepRefOf(program, 1)!;
    expect(second).toEqual({ kind: 'step', name: 'a', nth: 1, index: 1 });
    const longer = check(parse(`first = 1\n${TEXT}`));
    expect(indexOfStep(longer, second)).toBe(2);
    expect(indexOfStep(check(parse('a = 1')), second)).toBeUndefined();
    // While its name is typed anew it is what stands in its place.
    expect(nearestStep(check(parse('a = 1\nbc = 2')), second)).toBe(1);
    expect(nearestStep(check(parse('a = 1')), second)).toBeUndefined();
    // Past the line that is off, and no further than the ends.
    expect(nextStep(program, second, 1).name).toBe('c');
    expect(nextStep(program, stepRefOf(program, 0)!, -1)).toEqual(stepRefOf(program, 0));
  });

  it('takes the place of all that the material puts out', () => {
    const { look } = derive(TEXT);
    const alone = stepLook(look, stepRefOf(program, 0)!);
    expect(alone?.glsl.outputs).toEqual([{ name: 'color', type: 'f4' }]);
    expect(alone?.glsl.code).not.toBe(look.glsl.code);
    expect(alone?.program.surface.mode).toBe('blend');
  });
});

describe('the address', () => {
  const { program } = derive(
    'flow = uv |> pan(1 lap)\nflow = uv |> pan(2 laps)\nout color = flow |> checker(2)\nvariant "Too bright & wide" { }\n',
  ).look;
  it('names steps and variant, and reads them back', () => {
    for (const index of program.steps.keys()) {
      const looked = { step: stepRefOf(program, index), alone: stepRefOf(program, 2), variant: 'Too bright & wide' };
      const address = withLookedAt(new URLSearchParams('view=sphere'), looked).toString();
      expect(readLookedAt(new URLSearchParams(address), program)).toEqual(looked);
      expect(
        withLookedAt(new URLSearchParams(address), {
          step: undefined,
          alone: undefined,
          variant: undefined,
        }).toString(),
      ).toBe('view=sphere');
    }
    expect(
      withLookedAt(new URLSearchParams(), {
        step: stepRefOf(program, 1),
        alone: stepRefOf(program, 2),
        variant: undefined,
      }).toString(),
    ).toBe('step=flow+2&alone=out+color');
  });
  it('of what is not there opens nothing', () => {
    for (const words of ['gone', 'flow 3', 'out flow', 'flow 0', '', 'out color 2', '%00'])
      expect(readLookedAt(new URLSearchParams({ step: words, alone: words, variant: words }), program)).toEqual({
        step: undefined,
        alone: undefined,
        variant: undefined,
      });
  });
});
