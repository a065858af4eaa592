import { useEffect, useState } from 'react';
import { refsOf } from '../../project/supply.ts';
import type { DissolveView } from '../../workers/dissolve-watch.ts';
import { oneAtATime } from '../../workers/one-at-a-time.ts';
import { material } from '../../workers/material.ts';
import { useSession } from '../session.ts';

/** Milliseconds between two questions while the loop plays. */
const PAUSE = 90;

/**
 * A dissolve of the text at the moment that is shown, and the mask's value under the pointer. Asked only while it is
 * looked at.
 */
export function useDissolve(index: number): DissolveView | undefined {
  const { document, clock, pointer, sources } = useSession();
  const [view, setView] = useState<DissolveView>();
  useEffect(() => {
    let gone = false;
    const { ask, stop } = oneAtATime(
      () =>
        material('draw')
          .dissolve(
            document.getState().look.program.tree.text,
            index,
            clock.getState().time,
            refsOf(sources.getState().sources),
            pointer.getState().pixel?.uv,
          )
          .then((next) => {
            if (!gone) setView(next);
          }),
      () => PAUSE,
    );
    const ends = [document.subscribe(ask), clock.subscribe(ask), pointer.subscribe(ask), sources.subscribe(ask)];
    ask();
    return () => {
      gone = true;
      stop();
      for (const end of ends) end();
    };
  }, [document, clock, pointer, sources, index]);
  return view;
}
