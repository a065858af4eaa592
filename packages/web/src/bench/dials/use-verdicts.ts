import type { Verdicts } from '@estela/core';
import { useEffect, useState } from 'react';
import { refsOf } from '../../sources/supply.ts';
import { pixels } from '../../workers/pixels.ts';
import { useSession } from '../session.ts';

/** How long the text must rest, in milliseconds, before it is looked into. */
const REST = 500;

/** Whether the base (first) and each variant return after the loop; of the newest text without errors, a moment after it changed. */
export function useVerdicts(): readonly Verdicts[] {
  const { document, sources } = useSession();
  const [found, setFound] = useState<readonly Verdicts[]>([]);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let asked = 0;
    const ask = (): void => {
      clearTimeout(timer);
      timer = setTimeout(() => {
        const mine = ++asked;
        pixels('stage')
          .verdicts(document.getState().text, refsOf(sources.getState().sources))
          .then(
            (list) => {
              if (mine === asked && list) setFound(list);
            },
            () => undefined,
          );
      }, REST);
    };
    const ends = [
      document.subscribe((state, before) => {
        if (state.text !== before.text) ask();
      }),
      sources.subscribe(ask),
    ];
    ask();
    return () => {
      asked++;
      clearTimeout(timer);
      for (const end of ends) end();
    };
  }, [document, sources]);
  return found;
}
