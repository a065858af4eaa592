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
  const keyAt = (time: number, near?: TextureTransform): TransformKey => ({
    time,
    transform: transformOf(at(time), near),
  });
  const first = keyAt(0);
  if (isEven) return { keys: [first, keyAt(seconds, first.transform)], error: 0 };
  let error = 0;
  const apart = (one: TransformKey, two: TransformKey): number =>
    Math.max(
      ...LOOKS.map((part) =>
        distance(at(one.time + (two.time - one.time) * part), matrixOf(between(one.transform, two.transform, part))),
      ),
    );
  const keys = [first];
  const until = (last: number): void => {
    const waiting = [last];
    for (let time = waiting.pop(); time !== undefined; time = waiting.pop()) {
      const from = keys.at(-1)!;
      const to = keyAt(time, from.transform);
      const off = apart(from, to);
      if (off > NEAR && time - from.time > SHORTEST) waiting.push(time, (from.time + time) / 2);
      else {
        if (off <= NEAR) error = Math.max(error, off);
        keys.push(to);
      }
    }
  };
  for (let i = 1; i <= FIRST; i++) until((seconds * i) / FIRST);
  return { keys: thinned(keys), error };
}

/** Leaves out keys that lie on the line between their neighbours. */
function thinned(keys: readonly TransformKey[]): TransformKey[] {
  const kept = [keys[0]!];
  for (const [i, key] of keys.entries()) {
    const next = keys[i + 1];
    if (i === 0) continue;
    const before = kept.at(-1)!;
    if (next && isBetween(before, key, next)) continue;
    kept.push(key);
  }
  return kept;
}

function isBetween(before: TransformKey, key: TransformKey, next: TransformKey): boolean {
  const part = (key.time - before.time) / (next.time - before.time);
  const { offset, rotation, scale } = between(before.transform, next.transform, part);
  const own = key.transform;
  const same = (a: number, b: number): boolean => Math.abs(a - b) < 1e-9;
  return (
    same(rotation, own.rotation) &&
    [0, 1].every((i) => same(offset[i]!, own.offset[i]!) && same(scale[i]!, own.scale[i]!))
  );
}
