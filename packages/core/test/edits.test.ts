import { describe, expect, it } from '@jest/globals';
import {
  applyEdits,
  hexOfColor,
  literalText,
  parse,
  readDialText,
  setDefault,
  setOff,
  setTitle,
  titleOf,
  type Loop,
} from '../src/index.ts';
import { checked, demoMaterials } from './support.ts';

const loop: Loop = { seconds: 4, fps: 30, frames: 120 };

describe('edits', () => {
  it('write a default and nothing else', () => {
    const text = 'dial fall: laps = 2 in -6..6 "help"\nswitch on_air = on // note\n';
    expect(applyEdits(text, setDefault(parse(text), 'fall', '-3'))).toBe(
      'dial fall: laps = -3 in -6..6 "help"\nswitch on_air = on // note\n',
    );
    expect(applyEdits(text, setDefault(parse(text), 'on_air', 'off'))).toBe(
      'dial fall: laps = 2 in -6..6 "help"\nswitch on_air = off // note\n',
    );
    expect(setDefault(parse(text), 'fall', '2')).toEqual([]);
    expect(setDefault(parse(text), 'other', '2')).toEqual([]);
  });

  it('give a title, also to a text that has none', () => {
    for (const text of ['material "Old"\nout color = 1', 'out color = 1', '']) {
      expect(titleOf(parse(applyEdits(text, setTitle(parse(text), 'New "one"'))))).toBe('New  one');
    }
  });

  it.each(['number', 'laps', 'rate', 'time', 'angle', 'vec2', 'color'] as const)(
    'write a %s so that it reads as the same value',
    (type) => {
      const value = type === 'color' ? [0.2158605, 0, 1, 0.4980392] : type === 'vec2' ? [0.125, -3] : [1.375];
      const text = literalText(type, value, loop, hexOfColor);
      const [dial] = checked(`dial d: ${type} = ${text}`).dials;
      dial!.value.forEach((v, i) => expect(v).toBeCloseTo(value[i]!, 5));
      const read = readDialText(dial!, text, loop);
      expect('value' in read && read.value).toEqual(dial!.value);
      expect(readDialText(dial!, 'nonsense(', loop)).toHaveProperty('complaint');
    },
  );
});

describe('switching a line off', () => {
  it.each(demoMaterials)('and on again gives the text of $name back, at every step', ({ text }) => {
    const { tree, steps } = checked(text);
    for (const step of steps) {
      const turned = applyEdits(text, setOff(tree, step.span.from, !step.off));
      const after = checked(turned).steps.find((s) => s.index === step.index);
      expect(after).toMatchObject({ name: step.name, off: !step.off });
      expect(applyEdits(turned, setOff(checked(turned).tree, after!.span.from, step.off))).toBe(text);
      expect(setOff(tree, step.span.from, step.off)).toEqual([]);
    }
  });
});
