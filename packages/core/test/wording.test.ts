import { describe, expect, it } from '@jest/globals';
import { reasons } from '../src/diagnostics/reasons.ts';
import { say } from '../src/diagnostics/wording.ts';

/** Stands for any name, list or number that a sentence is made with. */
const something = Object.assign(['one', 'two'], { toFixed: () => '1.5', toPrecision: () => '1.5' });
const STIFF = /\b(mends?|anew|whoever|moment|is meant|hither|thereof)\b/i;

/** What entries are made with that take more than names and numbers. */
const GIVEN: Record<string, unknown[]> = {
  hasErrors: ['There is no value here.'],
  imageSeam: ['one', [{ axis: 0, ratio: 2 }], 'two', true],
};

const made = ([name, entry]: readonly [string, unknown]): unknown =>
  typeof entry === 'function'
    ? (entry as (...given: unknown[]) => unknown)(...(GIVEN[name] ?? new Array<unknown>(4).fill(something)))
    : entry;

describe('sentences that people read', () => {
  it.each(Object.entries(reasons))('%s is a whole sentence in plain words', (...of) => {
    const sentence = made(of);
    expect(sentence).toMatch(/\S\.$/);
    expect(sentence).not.toMatch(/ {2}|undefined|\[object/);
    expect(sentence).not.toMatch(STIFF);
  });

  it.each(Object.entries(say))('the finding %s is a whole sentence in plain words', (...of) => {
    const { message } = made(of) as { message: string };
    expect(message).toMatch(/\S\.$/);
    expect(message).not.toMatch(/ {2}|undefined|\[object/);
    expect(message).not.toMatch(STIFF);
  });
});
