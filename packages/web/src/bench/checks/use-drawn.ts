import { useEffect, useEffectEvent } from 'react';
import type { Subject } from '../../workers/checks.worker.ts';
import { useSession } from '../session.ts';
import { subjectOf } from './checks-store.ts';

/** Milliseconds between two drawings while something goes on changing. */
const PAUSE = 90;
/** How long typing must rest. */
const TYPING_REST = 700;

/**
 * Draws what a worker works out of the material, and anew whenever text, values, sources or `key` change: one question at a time, the
 * newest last. What is found of a text with errors is that of the last good one.
 */
export function useDrawn<T>(ask: (subject: Subject) => Promise<T>, key: string, draw: (found: T) => void): void {
  const { rested, shown, sources } = useSession();
  const asked = useEffectEvent(ask);
  const drawn = useEffectEvent(draw);
  useEffect(() => {
    let gone = false;
    let busy = false;
    let old = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const look = (): void => {
      old = true;
      if (busy || gone || !rested.getState().derived.ok) return;
      busy = true;
      old = false;
      asked(subjectOf(rested.getState(), shown.getState(), sources))
        .then(
          (found) => {
            if (!gone) drawn(found);
          },
          () => undefined,
        )
        .finally(() => {
          timer = setTimeout(() => {
            busy = false;
            if (old) look();
          }, PAUSE);
        });
    };
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
      clearTimeout(timer);
      clearTimeout(rest);
      for (const end of ends) end();
    };
  }, [rested, shown, sources, key]);
}
