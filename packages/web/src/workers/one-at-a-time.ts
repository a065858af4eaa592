/** Asks again and again as things change, but one question at a time. */
export interface Asker {
  /** Something has changed: asks now, or once the last question is answered and a pause over. */
  readonly ask: () => void;
  readonly stop: () => void;
}

/**
 * `work` asks and uses the answer, or gives undefined where there is nothing to ask for now; what it throws is let go.
 * `pause` is in milliseconds, after each answer.
 */
export function oneAtATime(work: () => Promise<void> | undefined, pause: () => number): Asker {
  let asking = false;
  let old = false;
  let stopped = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const ask = (): void => {
    old = true;
    if (asking || stopped) return;
    const answer = work();
    if (!answer) return;
    asking = true;
    old = false;
    answer
      .catch(() => undefined)
      .finally(() => {
        timer = setTimeout(() => {
          asking = false;
          if (old) ask();
        }, pause());
      });
  };
  return {
    ask,
    stop() {
      stopped = true;
      clearTimeout(timer);
    },
  };
}
