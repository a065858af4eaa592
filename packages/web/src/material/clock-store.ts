import { createStore, type StoreApi } from 'zustand/vanilla';

export interface ClockState {
  readonly playing: boolean;
  /** Seconds within the loop. */
  readonly time: number;
  readonly seconds: number;
  readonly fps: number;
  /** Seconds of the loop that go by in one: 1 is true to life. */
  readonly speed: number;
}

/** Speeds of play, slow to fast. */
export const SPEEDS = [0.1, 0.25, 0.5, 1, 2, 4] as const;

export interface Clock extends StoreApi<ClockState> {
  readonly play: () => void;
  readonly pause: () => void;
  /** Moves to a moment; beyond the ends of the loop it goes round. */
  readonly seek: (time: number) => void;
  /** Stops, and moves by whole frames from the frame that is shown. */
  readonly step: (frames: number) => void;
  /** Lets time go on by so many seconds, if it plays. */
  readonly advance: (seconds: number) => void;
  readonly setSpeed: (speed: number) => void;
  /** Takes over the loop of a text. */
  readonly setLoop: (seconds: number, fps: number) => void;
}

const wrap = (time: number, seconds: number): number => {
  const position = time - seconds * Math.floor(time / seconds);
  return position >= seconds ? 0 : position;
};

/** The frame shown at a moment; a hair is added so that a frame's start counts as that frame. */
export const frameAt = ({ time, fps, seconds }: ClockState): number =>
  Math.min(Math.floor(time * fps + 1e-6), Math.round(seconds * fps) - 1);

/** Time within the loop: from 0 up to, not including, its length. */
export function createClock(seconds = 4, fps = 30, playing = true): Clock {
  const store = createStore<ClockState>(() => ({ playing, time: 0, seconds, fps, speed: 1 }));
  const { getState: get, setState: set } = store;
  return {
    ...store,
    play: () => {
      set({ playing: true });
    },
    pause: () => {
      set({ playing: false });
    },
    seek: (time) => {
      set({ time: wrap(time, get().seconds) });
    },
    step(frames) {
      const state = get();
      const count = Math.round(state.seconds * state.fps);
      const frame = (((frameAt(state) + frames) % count) + count) % count;
      set({ playing: false, time: frame / state.fps });
    },
    advance(by) {
      const { playing: going, time, seconds: length, speed } = get();
      if (going) set({ time: wrap(time + by * speed, length) });
    },
    setSpeed(speed) {
      set({ speed });
    },
    setLoop(length, rate) {
      const state = get();
      if (state.seconds !== length || state.fps !== rate)
        set({ seconds: length, fps: rate, time: wrap(state.time, length) });
    },
  };
}

/** The time of a loop: it begins to go on by itself, but for those who asked their system for less motion. */
export const clockOf = ({ seconds, fps }: { readonly seconds: number; readonly fps: number }): Clock =>
  createClock(seconds, fps, !matchMedia('(prefers-reduced-motion: reduce)').matches);
