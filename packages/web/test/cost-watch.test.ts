import { expect, it, jest } from '@jest/globals';
import type { CardTimer } from '../src/gl/card-timer.ts';
import type { Programs } from '../src/gl/programs.ts';
import type { Renderer } from '../src/gl/renderer.ts';
import type { Textures } from '../src/gl/textures.ts';
import { derive } from '../src/material/look.ts';
import { CostWatch } from '../src/viewport/cost-watch.ts';

it('the middle one of five times counts, none of those that something came between, and none of an older shader', () => {
  jest.useFakeTimers();
  let held = 0;
  let drawn = 0;
  const took = [3, NaN, 1, 9, 2, 2.5];
  let running = false;
  const nothing = (): undefined => undefined;
  const gl = new Proxy(
    { isContextLost: () => false },
    { get: (own, name) => (name in own ? own.isContextLost : nothing) },
  );
  const card = {
    gl,
    get isRunning() {
      return running;
    },
    get took() {
      if (!running) return undefined;
      running = false;
      return took.shift();
    },
    begin: (draw: () => void) => {
      running = true;
      draw();
    },
  };
  const program = { ready: true, failure: undefined };
  const programs = { acquire: () => (held++, program), release: () => held-- };
  const told: (number | undefined)[] = [];
  const watch = new CostWatch(
    card as unknown as CardTimer,
    programs as unknown as Programs,
    { drawFlat: () => drawn++ } as unknown as Renderer,
    {} as Textures,
    (milliseconds) => told.push(milliseconds),
  );
  const look = (text: string) => derive(text).look;
  watch.watch(look('out color = uv.x\n'));
  // Still being typed.
  jest.advanceTimersByTime(300);
  watch.watch(look('out color = uv.y\n'));
  jest.runAllTimers();
  expect([told, drawn, held]).toEqual([[2.5], 6, 0]);
  watch.watch(look('out color = uv.y  // the same shader\n'));
  expect(told).toEqual([2.5]);
  watch.watch(look('out color = uv.y * 2\n'));
  jest.advanceTimersByTime(650);
  watch.dispose();
  jest.runAllTimers();
  expect([told, held]).toEqual([[2.5, undefined], 0]);
});
