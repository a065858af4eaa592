import { lapsText } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { refsOf } from '../../project/supply.ts';
import { oneAtATime } from '../../workers/one-at-a-time.ts';
import type { ProbePixel } from '../../workers/probe.ts';
import { material } from '../../workers/material.ts';
import { selectedIn } from '../selection.ts';
import type { Session } from '../session.ts';

const PAUSE = 80;

export interface ProbeValues {
  /** By step, at the pixel and moment looked at; undefined while nothing is. */
  readonly values: readonly (readonly number[])[] | undefined;
  readonly pixel: ProbePixel | undefined;
  /** Of the selected step, over the loop. */
  readonly history: readonly { readonly time: number; readonly value: readonly number[] }[];
  readonly historyOf: number | undefined;
}

/** Keeps the values of all steps at the probed pixel up to date; one question at a time. */
export function startProbe(session: Session): { readonly store: StoreApi<ProbeValues>; readonly stop: () => void } {
  const { document, clock, sources, pointer, selection } = session;
  const store = createStore<ProbeValues>(() => ({
    values: undefined,
    pixel: undefined,
    history: [],
    historyOf: undefined,
  }));
  let known = '';

  const look = async (): Promise<void> => {
    const { pinned, pixel: hovered } = pointer.getState();
    const pixel = pinned ?? hovered;
    const { text, derived } = document.getState();
    if (!pixel) {
      store.setState({ values: undefined, pixel: undefined });
      return;
    }
    const refs = refsOf(sources.getState().sources);
    const values = await material('draw').values(text, pixel, clock.getState().time, refs);
    const step = selectedIn(derived.program, selection.getState()) ?? derived.program.steps.length - 1;
    const key = JSON.stringify([text, pixel, step]);
    const history = key === known || step < 0 ? undefined : await material('draw').history(text, step, pixel, refs);
    known = key;
    if (document.getState().text === text)
      store.setState({ values, pixel, ...(history ? { history, historyOf: step } : {}) });
  };
  const { ask, stop } = oneAtATime(
    () => (globalThis.document.hidden ? undefined : look()),
    () => PAUSE,
  );
  const ends = [
    document.subscribe(ask),
    clock.subscribe(ask),
    sources.subscribe(ask),
    pointer.subscribe(ask),
    selection.subscribe(ask),
  ];
  ask();
  return {
    store,
    stop() {
      stop();
      for (const end of ends) end();
    },
  };
}

/** A value in the units of its type: angles in degrees, rates in laps, times in seconds. */
export function valueText(type: string, value: readonly number[]): string {
  const one = (v: number): string => (Number.isFinite(v) ? v.toFixed(3) : String(v));
  const [x = 0] = value;
  if (type === 'angle') return `${(x * 360).toFixed(1)}deg`;
  if (type === 'rate') return lapsText(one(x));
  if (type === 'time') return `${one(x)} s`;
  return value.map(one).join('  ');
}
