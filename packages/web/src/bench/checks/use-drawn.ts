import { useEffect, useEffectEvent } from 'react';
import type { Subject } from '../../workers/checks.worker.ts';
import { oneAtATime } from '../../workers/one-at-a-time.ts';
import { TYPING_REST } from '../document-store.ts';
import { useSession } from '../session.ts';
import { subjectOf } from './checks-store.ts';

/** Milliseconds between two drawings while something goes on changing. */
const PAUSE = 90;

/**
 * Draws what a worker works out of the material, and anew whenever text, values, sources or `key` change: one question
 * at a time, the newest last. What is found of a text with errors is that of the last good one.
 */
export function useDrawn<T>(ask: (subject: Subject) => Promise<T>, key: string, draw: (found: T) => void): void {
  const { rested, shown, sources } = useSession();
  const asked = useEffectEvent(ask);
  const drawn = useEffectEvent(draw);
  useEffect(() => {
    let gone = false;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const { ask: look, stop } = oneAtATime(
      () =>
        rested.getState().derived.ok
          ? asked(subjectOf(rested.getState(), shown.getState(), sources)).then((found) => {
              if (!gone) drawn(found);
            })
          : undefined,
      () => PAUSE,
    );
    const ends = [
      rested.subscribe((state, before) => {
        if (state.derived.text === before.derived.text) return;
        clearTimeout(rest);
        // Pictures give way to keys.
        if (state.typing) rest = setTimeout(look, TYPING_REST);
        else look();
      }),
      shown.subscribe((state, before) => {
        if (state.variant !== before.variant) look();
      }),
      sources.subscribe(look),
    ];
    look();
    return () => {
      gone = true;
      stop();
      clearTimeout(rest);
      for (const end of ends) end();
    };
  }, [rested, shown, sources, key]);
}
