import { wrap, type Remote } from 'comlink';
import PQueue from 'p-queue';

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

/** Those who want to know of each worker. */
export interface Begun {
  readonly begun?: (worker: Worker) => void;
  readonly ended?: (worker: Worker) => void;
}

export interface RemoteOptions<T> extends Begun {
  /** Where given, questions wait for each other: the ones of the highest rank come first. */
  readonly rank?: (question: keyof T) => number;
  /** Milliseconds after which one that says nothing is taken for stuck and ended. */
  readonly patience?: number;
  /** It died or was stuck; the next question starts another. */
  readonly failed?: (why: 'died' | 'stuck') => void;
}

interface Running<T> {
  readonly worker: Worker;
  readonly work: Remote<T>;
}

/** `start` makes the worker. */
export function remotely<T>(
  start: () => Worker,
  { begun, ended, rank, patience, failed }: RemoteOptions<T> = {},
): Remotely<T> {
  let running: Running<T> | undefined;
  const begin = (): Running<T> => {
    const worker = start();
    let fail: (reason: Error) => void;
    const dead = new Promise<never>((_, reject) => (fail = reject));
    dead.catch(() => undefined);
    const end = (why: 'died' | 'stuck', words: string): void => {
      worker.terminate();
      clearTimeout(timer);
      if (running?.worker === worker) running = undefined;
      fail(new Error(words));
      ended?.(worker);
      failed?.(why);
    };
    worker.addEventListener('error', (event) => {
      event.preventDefault();
      end('died', event.message || 'The worker ended.');
    });
    let open = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const listen = (): void => {
      clearTimeout(timer);
      if (patience !== undefined && open > 0)
        timer = setTimeout(() => {
          end('stuck', 'The worker did not respond.');
        }, patience);
    };
    worker.addEventListener('message', listen);
    const remote = wrap<T>(worker);
    const put = async (name: keyof Remote<T>, words: readonly unknown[]): Promise<unknown> => {
      open++;
      if (open === 1) listen();
      try {
        return await Promise.race([(remote[name] as (...all: unknown[]) => Promise<unknown>)(...words), dead]);
      } finally {
        open--;
        if (open === 0) clearTimeout(timer);
      }
    };
    const queue = rank && new PQueue({ concurrency: 1 });
    const ask =
      (name: keyof T & keyof Remote<T>) =>
      (...words: unknown[]): Promise<unknown> =>
        queue ? queue.add(() => put(name, words), { priority: rank(name) }) : put(name, words);
    // Its promises are those of the worker, or fail with it.
    const work = new Proxy(remote, {
      get: (_, name) => (name === 'then' ? undefined : ask(name as keyof T & keyof Remote<T>)),
    });
    return { worker, work };
  };
  return {
    work() {
      if (!running) {
        running = begin();
        begun?.(running.worker);
      }
      return running.work;
    },
    stop() {
      if (!running) return;
      const { worker } = running;
      worker.terminate();
      running = undefined;
      ended?.(worker);
    },
  };
}
