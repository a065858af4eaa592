import { describe, expect, it } from '@jest/globals';
import { laneEnds, lanePath, LANE_HEIGHT, LANE_WIDTH, periodText, tickStep } from '../src/bench/deck/lane-shape.ts';
import { edgeDifferences, heatOf } from '../src/viewport/heat.ts';
import { createClock, SPEEDS } from '../src/material/clock-store.ts';

describe('lanes', () => {
  it('a way is lifted where its period starts over, a shape is not, a hold goes in steps', () => {
    const curve = [0, 0.5, 1, 0, 0.5];
    expect(lanePath({ curve, lane: 'period' }).match(/M/g)).toHaveLength(2);
    expect(lanePath({ curve, lane: 'shape' }).match(/M/g)).toHaveLength(1);
    expect(lanePath({ curve: [0, 0.5, 0.5], lane: 'steps' })).toBe(
      `M0.0 ${LANE_HEIGHT.toFixed(1)}H${(LANE_WIDTH / 2).toFixed(1)}V50.0H${LANE_WIDTH.toFixed(1)}V50.0`,
    );
  });

  it('a way that has just come round ends at the top, or at the bottom where it runs back; an open one where it stands', () => {
    expect(laneEnds({ curve: [0, 0.5, 0.95, 0], lane: 'period' })).toEqual({ start: 0, end: 1 });
    expect(laneEnds({ curve: [0, 0.5, 0.05, 0.98], lane: 'period' })).toEqual({ start: 0, end: 0 });
    expect(laneEnds({ curve: [0, 0.4, 0.8], lane: 'period' })).toEqual({ start: 0, end: 0.8 });
  });

  it('periods are told in laps and seconds', () => {
    expect([
      periodText({ laps: 1 }, 4),
      periodText({ laps: -3 }, 4),
      periodText({ laps: 1.8 }, 6),
      periodText({}, 4),
    ]).toEqual(['1 lap, 4 s', '-3 laps, 1.33 s', '1.8 laps, 3.33 s', 'over time']);
  });

  it('ticks stand at round steps, no more than asked for', () => {
    for (const seconds of [0.1, 1, 4, 6, 7.3, 60, 3600]) {
      const step = tickStep(seconds, 8);
      expect(seconds / step).toBeLessThanOrEqual(8 + 1e-9);
      expect(seconds / step).toBeGreaterThanOrEqual(3);
      expect([1, 2, 5]).toContain(Number((step / 10 ** Math.floor(Math.log10(step) + 1e-9)).toFixed(6)));
    }
  });
});

describe('heat', () => {
  it('no difference is dark, one is coral and more', () => {
    const [none, small, large] = [0, 0.1, 1].map((v) => [...heatOf(Float32Array.of(v))]);
    expect(none!.slice(0, 3)).toEqual([0x13, 0x13, 0x13]);
    expect(small![0]).toBeGreaterThan(120);
    expect(large!.slice(0, 3)).toEqual([0xec, 0xe8, 0xdf]);
  });

  it('edges are those of the square', () => {
    const values = new Float32Array(16);
    values[4] = 0.5;
    values[14] = 0.25;
    expect(edgeDifferences(values, 4)).toEqual([0.5, 0.25]);
  });
});

it('time goes by at the speed of play', () => {
  const clock = createClock(4, 30);
  for (const speed of SPEEDS) {
    clock.seek(0);
    clock.setSpeed(speed);
    clock.advance(0.5);
    expect(clock.getState().time).toBeCloseTo(0.5 * speed);
  }
});
