import { ApiError, sentence } from '../api/client.ts';

/**
 * `stale`: something newer is stored, and nothing is written over it unasked. `away`: nobody answers; it is tried
 * again.
 */
export type SaveStatus = 'saved' | 'waiting' | 'saving' | 'stale' | 'failed' | 'away';

/** Something must be done, or waited for, before it is saved. */
export const isTrouble = (status: SaveStatus): boolean =>
  status === 'stale' || status === 'away' || status === 'failed';

/**
 * How long changes must rest before they are saved, and how long a failed save waits for its next try, in milliseconds.
 */
export const SAVE_PAUSE = 800;
export const RETRY_PAUSE = 4000;

export interface Autosaved<T> {
  /** What is to be stored. */
  readonly current: () => T;
  readonly same: (a: T, b: T) => boolean;
  /** Stores a value. An ApiError of status 412 says that something newer is stored. */
  readonly write: (value: T) => Promise<unknown>;
  /** Which of these values is stored now, if any; its version guards the next write. */
  readonly recognise: (sent: readonly T[]) => Promise<T | undefined>;
  /** Whether something is going on that must end before anything is saved by itself. */
  readonly busy?: () => boolean;
  readonly tell: (status: SaveStatus, message: string) => void;
}

export interface Autosave<T> {
  /** What is to be stored may have changed. */
  readonly touch: () => void;
  /** Saves at once what is not saved, after the save that is under way; not over anything newer. */
  readonly flush: () => Promise<void>;
  /** After a stale save: saves over what is stored, whose version is known by now. */
  readonly saveOver: () => Promise<void>;
  /** What is stored now, and known to be. */
  readonly adopt: (stored: T) => void;
}

const statusOf = (error: unknown): number | undefined => (error instanceof ApiError ? error.status : undefined);

/** Nobody answered: what was sent may be stored or not. */
const unanswered = (status: number | undefined): boolean =>
  status === 0 || status === 502 || status === 503 || status === 504;

/**
 * Saves a value by itself a moment after each change, one request at a time, and never over a newer one unseen. What
 * the server could not do is tried again. A save whose answer was lost is recognised later, so that it is no conflict
 * with oneself.
 */
export function createAutosave<T>(
  start: T,
  { current, same, write, recognise, busy = () => false, tell: say }: Autosaved<T>,
): Autosave<T> {
  let saved = start;
  let status: SaveStatus = 'saved';
  let timer: ReturnType<typeof setTimeout> | undefined;
  /** Values that were sent without an answer: one of them may be stored. */
  let lost: readonly T[] = [];
  const tell = (next: SaveStatus, message = ''): void => {
    status = next;
    say(next, message);
  };
  const due = (): boolean => lost.length > 0 || !same(current(), saved);
  const plan = (pause: number): void => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      if (busy()) plan(SAVE_PAUSE);
      else void flush();
    }, pause);
  };
  const settle = (): void => {
    clearTimeout(timer);
    if (due()) {
      tell('waiting');
      plan(SAVE_PAUSE);
    } else tell('saved');
  };
  const send = async (value: T): Promise<void> => {
    try {
      await write(value);
    } catch (error) {
      if (statusOf(error) !== 412 || lost.length === 0) throw error;
      const stored = await recognise(lost);
      if (stored === undefined) throw error;
      saved = stored;
      if (!same(stored, value)) await write(value);
    }
    saved = value;
    lost = [];
  };
  const save = async (): Promise<void> => {
    clearTimeout(timer);
    if (status === 'stale') return;
    if (!due()) {
      tell('saved');
      return;
    }
    const value = current();
    tell('saving');
    try {
      await send(value);
      settle();
    } catch (error) {
      const code = statusOf(error);
      if (unanswered(code)) lost = [...lost.filter((v) => !same(v, value)), value];
      tell(code === 412 ? 'stale' : unanswered(code) ? 'away' : 'failed', sentence(error));
      if (unanswered(code) || (code !== undefined && code >= 500)) plan(RETRY_PAUSE);
    }
  };
  let chain = Promise.resolve();
  const flush = (): Promise<void> => (chain = chain.then(save));
  return {
    touch() {
      if (status === 'stale' || status === 'saving') return;
      if (status !== 'away') settle();
      else plan(SAVE_PAUSE);
    },
    flush,
    saveOver() {
      if (status === 'stale') status = 'waiting';
      lost = [];
      return flush();
    },
    adopt(stored) {
      saved = stored;
      lost = [];
      status = 'saved';
      settle();
    },
  };
}
