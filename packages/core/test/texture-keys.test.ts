import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { keysOf } from '../src/exchange/gltf/keys.ts';
import { between, distance, matrixOf, transformOf, type TextureMatrix } from '../src/exchange/gltf/transform.ts';

const size = fc.double({ min: 0.1, max: 8, noNaN: true });
const place = fc.double({ min: -4, max: 4, noNaN: true });
const sign = fc.constantFrom(1, -1);

describe('texture transforms', () => {
  it('say what a matrix says, also mirrored, and the nearest to the one before', () => {
    fc.assert(
      fc.property(size, size, sign, sign, place, place, place, (sx, sy, x, y, turn, u, v) => {
        const given = { offset: [u, v], rotation: turn * 3, scale: [sx * x, sy * y] } as const;
        const matrix = matrixOf(given);
        expect(distance(matrixOf(transformOf(matrix)), matrix)).toBeLessThan(1e-9);
        const near = transformOf(matrix, given);
        expect(near.rotation).toBeCloseTo(given.rotation, 9);
        expect(near.scale[0]).toBeCloseTo(given.scale[0], 9);
        expect(near.scale[1]).toBeCloseTo(given.scale[1], 9);
      }),
    );
  });

  /** Turns about a point while it swings and grows; `jump` moves at once in the middle of the loop. */
  const motion =
    (laps: number, swing: number, grow: number, jump: number) =>
    (time: number): TextureMatrix => {
      const phase = time / 2;
      const rotation = 2 * Math.PI * laps * phase;
      const scale = 1 + grow * Math.sin(2 * Math.PI * phase);
      const offset = [swing * Math.cos(2 * Math.PI * phase), phase < 0.5 ? 0 : jump] as const;
      return matrixOf({ offset, rotation, scale: [scale, scale * 2] });
    };

  it('have keys that are near enough at all times but a jump, and few where little happens', () => {
    const laps = fc.integer({ min: -3, max: 3 });
    const part = fc.double({ min: 0, max: 0.5, noNaN: true });
    fc.assert(
      fc.property(laps, part, part, fc.constantFrom(0, 0.3), (turns, swing, grow, jump) => {
        const at = motion(turns, swing, grow, jump);
        const { keys, error } = keysOf(at, 2, false);
        expect(error).toBeLessThanOrEqual(1 / 1024);
        expect(keys[0]!.time).toBe(0);
        expect(keys.at(-1)!.time).toBe(2);
        expect(keys.length).toBeLessThan(700);
        for (let i = 0; i < 97; i++) {
          const time = (2 * i) / 97;
          const next = keys.findIndex((key) => key.time > time);
          const [one, two] = [keys[next - 1]!, keys[next]!];
          expect(two.time).toBeGreaterThan(one.time);
          if (jump !== 0 && Math.abs(time - 1) < 0.003) continue;
          const shown = matrixOf(between(one.transform, two.transform, (time - one.time) / (two.time - one.time)));
          expect(distance(shown, at(time))).toBeLessThan(2 / 1024);
        }
      }),
      { numRuns: 40 },
    );
    // Turns alone need no more than the stretches that are looked at: each is exact.
    expect(keysOf(motion(0, 0, 0, 0), 2, false).keys).toHaveLength(2);
    expect(keysOf((time) => matrixOf({ offset: [time, 0], rotation: 0, scale: [1, 1] }), 2, true)).toMatchObject({
      keys: [{ time: 0 }, { time: 2, transform: { offset: [2, 0] } }],
      error: 0,
    });
  });
});
