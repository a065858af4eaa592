import { useEffect } from 'react';

let here = '';
let share: number | undefined;

const write = (): void => {
  const named = here === '' ? 'Estela' : `${here} - Estela`;
  document.title = share === undefined ? named : `${String(Math.floor(share * 100))} % ${named}`;
};

/** Names what is shown in the title of the window, for as long as it is. */
export function useTitle(words: string): void {
  useEffect(() => {
    here = words;
    write();
    return () => {
      here = '';
      write();
    };
  }, [words]);
}

/** Says in the title of the window how far something is that takes long, 0 to 1; undefined where nothing is. */
export function useTitleProgress(done: number | undefined): void {
  useEffect(() => {
    share = done;
    write();
    return () => {
      share = undefined;
      write();
    };
  }, [done]);
}
