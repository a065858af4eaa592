import { wrap, type Remote } from 'comlink';

/** A worker that is started when it is first asked something. */
export interface Remotely<T> {
  /**
   * What it can be asked. Where it dies, of too little memory, say, what it was asked fails, and the next question
   * starts another.
   */
  readonly work: () => Remote<T>;
  /** Ends what it is at; the next question starts another. Promises of the old one stay open for ever. */
  readonly stop: () => void;
}

interface Running<T> {
  readonly worker: Worker;
  readonly work: Remote<T>;
}

/** `start` makes the worker. */
export function remotely<T>(start: () => Worker): Remotely<T> {
  let running: Running<T> | undefined;
  const begin = (): Running<T> => {
    const worker = start();
    const died = new Promise<never>((_, reject) => {
      worker.addEventListener('error', (event) => {
        event.preventDefault();
        worker.terminate();
        if (running?.worker === worker) running = undefined;
        reject(new Error(event.message || 'The worker ended.'));
      });
    });
    died.catch(() => undefined);
    const remote = wrap<T>(worker);
    const ask =
      (name: keyof Remote<T>) =>
      (...words: unknown[]): Promise<unknown> =>
        Promise.race([(remote[name] as (...all: unknown[]) => Promise<unknown>)(...words), died]);
    // Its promises are those of the worker, or fail with it.
    const work = new Proxy(remote, { get: (_, name) => (name === 'then' ? undefined : ask(name as keyof Remote<T>)) });
    return { worker, work };
  };
  return {
    work: () => (running ??= begin()).work,
    stop() {
      running?.worker.terminate();
      running = undefined;
    },
  };
}
