import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { parse } from '../src/index.ts';
import type { Expression } from '../src/lang/tree.ts';
import { demoMaterials, lineOf, fixed } from './support.ts';

const CONTRACT = `material "Mist curtain"
loop 6s at 30fps
surface lit blend two-sided
dial fall: laps = 2 in -6..6            "Sheets that pass in one loop"
dial tint: color = #9fd8e6
switch sparkle = on                     "Glints in the thick parts"
image ripple = "mist-normal.png" repeat linear normal
ramp glint = 0% #00000000, 70% #00000000, 100% #ffffff smooth
op slide(at: vec2, speed: rate = 1 lap) = { a = at |> pan(speed) // moves
  return a }
flow   = uv |> tile(2, 3)
  // a note between
  |> pan(fall, heading: 270deg)
off color = (flow.x + 1 - 2 * -3 / 4 < .5) |> off power(2)
out color = mix(
  0.1, 20%,
  flow.y)
variant "Calm" { fall = 1 lap, tint = #c9e6ee
  sparkle = off }
`;

function* within(e: Expression): Generator<Expression> {
  yield e;
  const children: readonly Expression[] =
    e.kind === 'vector'
      ? e.items
      : e.kind === 'group'
        ? [e.inner]
        : e.kind === 'unary'
          ? [e.operand]
          : e.kind === 'binary'
            ? [e.left, e.right]
            : e.kind === 'call'
              ? e.args.map((a) => a.value)
              : e.kind === 'pipe'
                ? [e.left, e.call]
                : e.kind === 'swizzle'
                  ? [e.of]
                  : [];
  for (const child of children) yield* within(child);
}

describe('the parser', () => {
  it('reads every form of the grammar', () => {
    const tree = parse(CONTRACT);
    expect(tree.diagnostics).toEqual([]);
    expect(tree.statements.map((s) => s.kind)).toEqual(
      'material loop surface dial dial switch image ramp op step step out variant'.split(' '),
    );
  });

  it('reads units, ranges and products as the contract says', () => {
    const value = (text: string): unknown => {
      const [s] = parse(`x = ${text}`).statements;
      return s?.kind === 'step'
        ? JSON.parse(JSON.stringify(s.value, ['kind', 'value', 'unit', 'operator', 'left', 'right', 'name']))
        : s;
    };
    expect(value('3/s')).toEqual({ kind: 'number', value: 3, unit: '/s' });
    expect(value('3 laps')).toEqual({ kind: 'number', value: 3, unit: 'laps' });
    expect(value('3/speed')).toEqual({
      kind: 'binary',
      operator: '/',
      left: { kind: 'number', value: 3 },
      right: { kind: 'name', name: 'speed' },
    });
    const [dial] = parse('dial a = .5 in 0..2').statements;
    expect(dial).toMatchObject({ kind: 'dial', low: { value: 0 }, high: { value: 2 } });
    expect(value('1 - 2 * 3')).toMatchObject({ operator: '-', right: { operator: '*' } });
  });

  it.each([
    ['a = uv |> tile(2, 2\nb = uv.x\n', 1, "'('"],
    ['a = \nb = 1', 1, 'a value'],
    ['a = "abc\nb = 1', 1, 'no closing quote'],
    ['a = #12\nb = 1', 1, 'colour'],
    ['a = 1 @ 2\nb = 1', 1, "'@'"],
    ['a = 1)\nb = 1', 1, 'no opening bracket'],
    ['a = 2 turns\nb = 1', 1, 'not a unit'],
    ['dail a = 1\nb = 1', 1, 'begins'],
    ['b = 1\na = uv |> tile\n', 2, "'('"],
    ['variant "x" { a = 1\nout color = 1\nb = 1', 1, "'{'"],
    ['op f(x: number) = {\n y = x\n return y\nout color = 1\nb = 1', 1, "'{'"],
    ['a = f(x: 1, 2)\nb = 1', 1, 'without a name'],
    [`a = ${'('.repeat(5000)}\nb = 1`, 1, 'nested'],
    [`a = ${'1 + '.repeat(5000)}1\nb = 1`, 1, 'nested'],
  ])('gives one message, at its line, and reads on: %j', (text, line, words) => {
    const { diagnostics, statements } = parse(text);
    expect(diagnostics).toHaveLength(1);
    expect(diagnostics[0]!.message).toContain(words);
    expect(lineOf(text, diagnostics[0]!.from)).toBe(line);
    expect(statements.some((s) => s.kind === 'step' && s.name.name === 'b')).toBe(true);
  });

  it('offers fixes that cure', () => {
    for (const text of ['a = tile(uv, 2\n', 'a = 1 @', 'a = "x', 'dail x = 3', 'a = uv |> tile', 'a = 1)']) {
      const [first] = parse(text).diagnostics;
      expect(parse(fixed(text, first!)).diagnostics.map((d) => d.code)).not.toContain(first!.code);
    }
  });

  it('never throws, and keeps its promises about spans, on any text', () => {
    const sources = [CONTRACT, ...demoMaterials.map((m) => m.text)];
    const damaged = fc
      .tuple(
        fc.constantFrom(...sources),
        fc.nat(),
        fc.nat({ max: 12 }),
        fc.constantFrom(
          '',
          '(',
          ')',
          '{',
          '}',
          '"',
          '|>',
          '..',
          '#',
          '\n',
          'off ',
          '/s',
          ' laps',
          ':',
          ',',
          '=',
          '\u{1f33f}',
        ),
      )
      .map(
        ([text, at, cut, insert]) => text.slice(0, at % text.length) + insert + text.slice((at % text.length) + cut),
      );
    const holds = (text: string): boolean => {
      const { tokens, statements, diagnostics } = parse(text);
      let end = 0;
      for (const token of tokens) {
        if (token.from < end || !/^[ \t\r\uFEFF]*$/.test(text.slice(end, token.from))) return false;
        end = token.to;
      }
      return (
        end === text.length &&
        diagnostics.every((d) => 0 <= d.from && d.from <= d.to && d.to <= text.length) &&
        statements.every(
          (s) =>
            (s.kind !== 'step' && s.kind !== 'out') ||
            [...within(s.value)].every((e) => s.from <= e.from && e.from <= e.to),
        )
      );
    };
    fc.assert(fc.property(fc.oneof(damaged, fc.string({ unit: 'binary', maxLength: 80 })), holds), { numRuns: 3000 });
  });
});
