import { between, distance, matrixOf, transformOf, type TextureMatrix, type TextureTransform } from './transform.ts';

/** A transform at a moment, in seconds from the start of the loop. */
export interface TransformKey {
  readonly time: number;
  readonly transform: TextureTransform;
}
/** Keys between which players go evenly. */
export interface TransformKeys {
  readonly keys: readonly TransformKey[];
  /** How far they read beside the motion, at most, in UV units. Jumps take a thousandth of a second. */
  readonly error: number;
}

/** Furthest that keys may read beside the motion, in UV units. */
const NEAR = 1 / 1024;
/** Seconds that are not divided any more: the motion jumps there. */
const SHORTEST = 1 / 1000;
/** Stretches that are looked at in any case, so that nothing that comes back to where it was is overlooked. */
const FIRST = 16;
/** Moments between two keys at which they are held against the motion. */
const LOOKS = [0.25, 0.5, 0.75];

/** Keys of a motion over one loop, as few as are near enough: two where it is `isEven`. */
export function keysOf(at: (time: number) => TextureMatrix, seconds: number, isEven: boolean): TransformKeys {
  const keyAt = (time: number, near?: TransformKey): TransformKey => ({
    time,
    transform: transformOf(at(time), near?.transform),
  });
  const first = keyAt(0);
  if (isEven) return { keys: [first, keyAt(seconds, first)], error: 0 };
  return spread<TransformKey>({
    seconds,
    near: NEAR,
    keyAt,
    apart: (one, two, part) =>
      distance(at(one.time + (two.time - one.time) * part), matrixOf(between(one.transform, two.transform, part))),
    isBetween: (one, own, two, part) => {
      const { offset, rotation, scale } = between(one.transform, two.transform, part);
      const { transform } = own;
      return (
        same(rotation, transform.rotation) &&
        [0, 1].every((i) => same(offset[i]!, transform.offset[i]!) && same(scale[i]!, transform.scale[i]!))
      );
    },
  });
}

/** Some numbers at a moment, in seconds from the start of the loop. */
export interface ValueKey {
  readonly time: number;
  readonly value: readonly number[];
}
/** Keys between which players go evenly, and how far a number is off at most. */
export interface ValueKeys {
  readonly keys: readonly ValueKey[];
  readonly error: number;
}

/** Keys of numbers that change over one loop, each within `near`; one where they do not. */
export function valueKeysOf(at: (time: number) => readonly number[], seconds: number, near: number): ValueKeys {
  const mixed = ({ value }: ValueKey, two: ValueKey, part: number): number[] =>
    value.map((v, i) => v + (two.value[i]! - v) * part);
  const found = spread<ValueKey>({
    seconds,
    near,
    keyAt: (time) => ({ time, value: at(time) }),
    apart: (one, two, part) => {
      const line = mixed(one, two, part);
      return Math.max(...at(one.time + (two.time - one.time) * part).map((v, i) => Math.abs(v - line[i]!)));
    },
    isBetween: (one, own, two, part) => mixed(one, two, part).every((v, i) => same(v, own.value[i]!)),
  });
  const [first, second, ...more] = found.keys;
  const isStill = more.length === 0 && second!.value.every((v, i) => same(v, first!.value[i]!));
  return { keys: isStill ? [first!] : found.keys, error: found.error < 1e-9 ? 0 : found.error };
}

const same = (a: number, b: number): boolean => Math.abs(a - b) < 1e-9;

interface Spreading<K> {
  readonly seconds: number;
  /** Furthest that the line between two keys may be off. */
  readonly near: number;
  readonly keyAt: (time: number, before?: K) => K;
  /** How far the line between two keys is off, a part of the way from the first to the second. */
  readonly apart: (one: K, two: K, part: number) => number;
  /** Whether a key lies on the line between two others. */
  readonly isBetween: (one: K, own: K, two: K, part: number) => boolean;
}

/** Keys over one loop, closer where the lines between them would be off. */
function spread<K extends { readonly time: number }>({
  seconds,
  near,
  keyAt,
  apart,
  isBetween,
}: Spreading<K>): {
  readonly keys: readonly K[];
  readonly error: number;
} {
  let error = 0;
  const keys = [keyAt(0)];
  for (let i = 1; i <= FIRST; i++) {
    const waiting = [(seconds * i) / FIRST];
    for (let time = waiting.pop(); time !== undefined; time = waiting.pop()) {
      const from = keys.at(-1)!;
      const to = keyAt(time, from);
      const off = Math.max(...LOOKS.map((part) => apart(from, to, part)));
      if (off > near && time - from.time > SHORTEST) waiting.push(time, (from.time + time) / 2);
      else {
        if (off <= near) error = Math.max(error, off);
        keys.push(to);
      }
    }
  }
  const kept = [keys[0]!];
  for (const [i, key] of keys.entries()) {
    const [before, next] = [kept.at(-1)!, keys[i + 1]];
    if (i === 0 || (next && isBetween(before, key, next, (key.time - before.time) / (next.time - before.time))))
      continue;
    kept.push(key);
  }
  return { keys: kept, error };
}
