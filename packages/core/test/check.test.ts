import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { Baker, bakeStep, compile, packageCode, settingValues, TARGETS } from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { checked, demoMaterials, lineOf, fixed, valueAt } from './support.ts';

const errors = (text: string): string[] =>
  checked(text)
    .diagnostics.filter((d) => d.severity === 'error')
    .map((d) => d.code);

describe('the checker', () => {
  it.each(demoMaterials)('finds nothing in the demo material $name', ({ text }) => {
    expect(checked(text).diagnostics).toEqual([]);
  });

  it.each([
    ['a = uv |> pan(0.3)', 'argument-type', 'a rate', ['a = uv |> pan(0.3/s)', 'a = uv |> pan(0.3 laps)']],
    ['a = uv |> turn(30)', 'argument-type', 'an angle', ['a = uv |> turn(30deg)']],
    ['a = uv + 1s', 'type-mismatch', 'a time', ['a = uv + 1']],
    ['a = 1 lap + 2', 'type-mismatch', 'a rate', ['a = 1 + 2', 'a = 1 lap + 2/s', 'a = 1 lap + 2 laps']],
    ['a = uv |> pan(1 lap, headin: 0deg)', 'unknown-argument', "'headin'", ['a = uv |> pan(1 lap, heading: 0deg)']],
    ['a = uv |> chekcer(2)', 'unknown-operation', "'chekcer'", ['a = uv |> checker(2)']],
    ['b = uv\na = bb.x', 'unknown-name', "'bb'", ['b = uv\na = b.x']],
    ['a = uv.z', 'bad-swizzle', '.z', []],
    ['a = uv.x |> rise((0.1, 0.2, 0.3), (0.1, 0.2))', 'argument-type', 'the same type', []],
    ['a = uv |> off checker(2)', 'off-type', 'checker', []],
    ['a = uv |> fbm(octaves: 99)', 'argument-range', '1 to 12', ['a = uv |> fbm(octaves: 12)']],
    ['dial k = 1 in 1..9\na = uv |> fbm(octaves: k)', 'argument-constant', 'plain number', []],
    ['a = uv |> fbm(basis: gradiant)', 'argument-type', "'gradient'", ['a = uv |> fbm(basis: gradient)']],
    ['op f(x: number) = f(x)\na = f(1)', 'recursion', "'f'", []],
    ['op f(x: number) = g(x)\nop g(x: number) = f(x)', 'recursion', 'uses itself', []],
    ['dial k = 3 in 0..2', 'out-of-range', '0..2', ['dial k = 2 in 0..2']],
    ['dial k: rate = 3/s in 0/s..2/s', 'out-of-range', '0/s..2/s', ['dial k: rate = 2/s in 0/s..2/s']],
    ['dial k: rate = 3', 'literal-type', 'a rate', ['dial k: rate = 3/s', 'dial k: rate = 3 laps']],
    ['dial k: colour = #fff', 'unknown-type', 'colour', ['dial k: color = #fff']],
    ['dial k = 1 in 2..1', 'empty-range', 'low end', []],
    ['loop 1.05s at 30fps', 'loop-not-whole', '31.5', ['loop 1.066667s at 30fps']],
    ['loop 4 at 30fps', 'literal-type', 'a time', ['loop 4s at 30fps']],
    ['surface lit unlit', 'word-clash', 'combined', ['surface lit ']],
    ['surface lit blnd', 'unknown-word', 'blnd', ['surface lit blend']],
    ['image i = "a" repeat cubic', 'unknown-word', 'cubic', []],
    ['ramp r = 0% #fff', 'ramp-stops', 'two stops', []],
    ['ramp r = 60% #fff, 40% #000', 'ramp-order', '0% to 100%', []],
    ['dial k = 1\nvariant "v" { kk = 1 }', 'unknown-name', "'kk'", ['dial k = 1\nvariant "v" { k = 1 }']],
    ['dial k = 1 in 0..2\nvariant "v" { k = 3 }', 'out-of-range', "'k'", ['dial k = 1 in 0..2\nvariant "v" { k = 2 }']],
    ['out colour = 1', 'unknown-channel', 'colour', ['out color = 1']],
    ['out opacity = uv', 'output-type', 'a number', ['out opacity = (uv).x']],
    ['dial k = 1\nk = 2', 'name-taken', 'a dial', []],
    ['image i = "a"\nb = i + 1', 'only-argument', "'i'", []],
    ['b = pan', 'operation-as-value', "'pan'", []],
    ['b = pan(uv)', 'missing-argument', "'rate'", []],
    ['b = uv |> pan(1 lap, right: 1 lap)', 'missing-argument', 'either', []],
    ['b = uv |> tile()', 'missing-argument', "'n'", []],
    ['b = uv |> flip(u, v)', 'too-many-arguments', 'flip', []],
    ['b = (uv, 1)', 'vector-part', 'a vec2', ['b = (uv.x, 1)']],
  ])('says of %j: %s', (text, code, words, cures) => {
    const found = checked(text).diagnostics.filter((d) => d.severity === 'error');
    expect(found.map((d) => d.code)).toContain(code);
    const first = found.find((d) => d.code === code)!;
    expect(first.message).toContain(words);
    expect(first.fixes.map((_, i) => fixed(text, first, i))).toEqual(cures);
    for (const cure of cures) expect(errors(cure)).not.toContain(code);
  });

  it.each([
    ['time * 0.5/s', 'number'],
    ['2 * 1 lap', 'rate'],
    ['1 lap / 2 laps', 'number'],
    ['90deg + 0.5turn', 'angle'],
    ['uv * 2 + (1, 1)', 'vec2'],
    ['-30deg', 'angle'],
    ['#fff * 0.5', 'vec4'],
    ['uv.xyx', 'vec3'],
    ['uv.x < 0.5', 'number'],
    ['mix(1deg, 2deg, 0.5)', 'angle'],
    ['uv |> flip(v) |> checker(4)', 'number'],
  ])('types %s as %s', (text, type) => {
    expect(checked(`a = ${text}`).steps[0]?.type).toBe(type);
  });

  it.each([
    ['uv.x * 1e39', '1e39', '3.4e38'],
    ['uv.x * -1e39', '1e39', '3.4e38'],
    ['1e30 * 1e30 * uv.x', '1e30 * 1e30', '3.4e38'],
    ['(0 - 1e30) * 1e30 + uv.x', '(0 - 1e30) * 1e30', '-3.4e38'],
    ['((uv.x, 1) * (1e38, 1) * ((1e20, 2) * 1e20)).x', '(1e20, 2) * 1e20', '(3.4e38, 200000000000000000000)'],
    ['wave(1e60 laps)', '1e60 laps', '3.4e38laps'],
    ['uv.x * exp(80) * exp(80)', undefined, undefined],
    ['wave(2e38/s)', '2e38/s', undefined],
  ])('%s is no number that a pixel can hold', (value, where, cure) => {
    const text = `loop 4s at 30fps\nout color = ${value}\n`;
    const { diagnostics, ok } = compile(text);
    const errors = diagnostics.filter((d) => d.severity === 'error');
    expect(errors.map((d) => d.code)).toEqual(where === undefined ? [] : ['number-too-large']);
    const [first] = errors;
    expect([ok, first && text.slice(first.from, first.to)]).toEqual([where === undefined, where]);
    expect(first?.fixes.map((f) => f.edits[0]!.insert)).toEqual(cure === undefined ? first && [] : [cure]);
    if (first && cure !== undefined) expect(compile(fixed(text, first)).ok).toBe(true);
  });

  it('costs a wrong line only its own step', () => {
    const text = 'flow = uv |> pan(0.3)\nn = flow |> checker(2)\nout color = n + missing_thing\nout opacity = n';
    const program = checked(text);
    expect(program.diagnostics.map((d) => lineOf(text, d.from))).toEqual([1, 3]);
    // In place of the wrong coordinate stands uv.
    expect(valueAt(text, 'n', [0.75, 0.25], 1)).toEqual([1]);
    expect(valueAt(text, 'opacity', [0.75, 0.25], 1)).toEqual([1]);
  });

  it('gives lines that are off their neutral', () => {
    expect(valueAt('off a = uv |> tile(3, 3)', 'a', [0.25, 0.5], 0)).toEqual([0.25, 0.5]);
    expect(valueAt('off a = uv.x * 3', 'a', [0.25, 0.5], 0)).toEqual([0]);
    expect(valueAt('a = uv.x\noff a = a * 3\nb = a', 'b', [0.25, 0.5], 0)).toEqual([0.25]);
    expect(valueAt('a = uv |> off tile(3, 3)', 'a', [0.25, 0.5], 0)).toEqual([0.25, 0.5]);
  });

  it('settles switches when compiling, so an unused side costs nothing', () => {
    const text = 'switch rich = on\nout color = uv.x + rich * (uv |> fbm())';
    const program = checked(text);
    expect(lower(program).builder.size).toBeGreaterThan(100);
    expect(
      lower(program, settingValues(program, undefined, new Map([['rich', [0]]])).switches).outputs.get('color')?.kind,
    ).toBe('vec');
  });

  it('bounds what expanding can grow to', () => {
    const doubling = Array.from(
      { length: 30 },
      (_, i) =>
        `op f${String(i)}(x: number) = ${i === 0 ? 'x * 1.5' : `f${String(i - 1)}(x) + f${String(i - 1)}(x + 1)`}`,
    );
    const program = checked(`${doubling.join('\n')}\nout color = f29(uv.x)`);
    expect(program.ok).toBe(true);
    expect(lower(program).diagnostics.map((d) => d.code)).toEqual(['too-many-nodes']);
  });

  it('has limits, each with a message of its own', () => {
    const images = (count: number, read: number): string =>
      `${Array.from({ length: count }, (_, i) => `image i${String(i)} = "i"`).join('\n')}\nout color = ${Array.from({ length: read }, (_, i) => `(uv |> sample(i${String(i)}))`).join(' + ')}`;
    expect(errors(images(65, 1))).toEqual(['too-many-images']);
    expect(lower(checked(images(17, 17))).diagnostics.map((d) => d.code)).toEqual(['too-many-samplers']);
    expect(lower(checked(images(17, 16))).diagnostics).toEqual([]);
    expect(errors(`a = 1 // ${'x'.repeat(200_000)}`)).toEqual(['text-too-long']);

    // What only expanding can tell counts like any other error: nothing is baked or written of it.
    const beyond = compile(checked(images(17, 17)));
    expect([beyond.ok, beyond.diagnostics.map((d) => d.code)]).toEqual([false, ['too-many-samplers']]);
    const { program, values } = beyond;
    const options = { output: 'color', width: 2, height: 2, samples: 1 } as const;
    const sentence = beyond.diagnostics[0]!.message;
    expect(() => Baker.of(program, values, options, () => undefined)).toThrow(sentence);
    expect(() => packageCode(program, { targets: TARGETS, values })).toThrow(sentence);
    expect(() =>
      bakeStep(
        program,
        { step: 'out.color', width: 2, height: 2, time: 0, encoding: 'color', bits: 8 },
        () => undefined,
      ),
    ).toThrow(sentence);
    expect(compile(checked(images(17, 16))).ok).toBe(true);
  });

  it('never throws on damaged materials, and lowers what is left', () => {
    const damaged = fc
      .tuple(fc.constantFrom(...demoMaterials.map((m) => m.text)), fc.nat(), fc.nat(), fc.nat({ max: 20 }))
      .map(([text, to, from, length]) => {
        const piece = text.slice(from % text.length, (from % text.length) + length);
        return text.slice(0, to % text.length) + piece + text.slice((to % text.length) + (length % 7));
      });
    fc.assert(
      fc.property(damaged, (text) => {
        const program = checked(text);
        for (const d of program.diagnostics) expect(d.from >= 0 && d.from <= d.to && d.to <= text.length).toBe(true);
        expect(lower(program).steps).toHaveLength(program.steps.length);
      }),
      { numRuns: 1200 },
    );
  });
});
