import { useEffect, useEffectEvent } from 'react';
import type { Subject } from '../workers/material.worker.ts';
import { oneAtATime } from '../workers/one-at-a-time.ts';

/** A material that something is worked out of, whoever holds it. */
export interface Drawable {
  /** What is to be asked about now; undefined while its text has errors. */
  readonly subject: () => Subject | undefined;
  /** Calls whenever that may be another, and no more once the function it gives is called. */
  readonly watch: (changed: () => void) => () => void;
}

/** Milliseconds between two drawings while something goes on changing. */
const PAUSE = 90;

/**
 * Draws what a worker works out of the material, and anew whenever it or `key` changes: one question at a time, the
 * newest last. What is found of a text with errors is that of the last good one.
 */
export function useDrawn<T>(
  material: Drawable,
  ask: (subject: Subject) => Promise<T>,
  key: string,
  draw: (found: T) => void,
): void {
  const asked = useEffectEvent(ask);
  const drawn = useEffectEvent(draw);
  useEffect(() => {
    let gone = false;
    const { ask: look, stop } = oneAtATime(
      () => {
        const subject = material.subject();
        return (
          subject &&
          asked(subject).then((found) => {
            if (!gone) drawn(found);
          })
        );
      },
      () => PAUSE,
    );
    const end = material.watch(look);
    look();
    return () => {
      gone = true;
      stop();
      end();
    };
  }, [material, key]);
}
