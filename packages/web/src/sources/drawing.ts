import { createStore, type StoreApi } from 'zustand/vanilla';
import { createAutosave, type SaveStatus } from '../history/autosave.ts';

export interface DrawingState<T> {
  /** What the hand is changing right now. */
  readonly shown: T | undefined;
  /** What was kept last and is not stored yet. */
  readonly kept: T | undefined;
  readonly status: 'saved' | 'saving' | 'failed';
  /** Why it is not stored. */
  readonly problem: string;
}

/** A drawing while it is edited. */
export interface Drawing<T> extends StoreApi<DrawingState<T>> {
  /** The drawing without what the hand is changing: what is kept, stored or not. The next change builds on it. */
  readonly latest: () => T;
  /** Shows a change while the hand is on it; undefined goes back. */
  readonly show: (drawing: T | undefined) => void;
  /** What is stored by now, as undo or another page may have changed it. */
  readonly follow: (stored: T) => void;
  /** Stores a change; each is one undo. */
  readonly keep: (drawing: T, title: string) => void;
}

const STATUS: Record<SaveStatus, DrawingState<unknown>['status']> = {
  saved: 'saved',
  waiting: 'saving',
  saving: 'saving',
  stale: 'failed',
  failed: 'failed',
  away: 'failed',
};

/**
 * Stores what is kept of a drawing, one change after the other, each as one undo. What the server could not take is
 * tried again.
 */
export function createDrawing<T extends object>(
  start: T,
  write: (drawing: T, title: string) => Promise<unknown>,
): Drawing<T> {
  const store = createStore<DrawingState<T>>(() => ({
    shown: undefined,
    kept: undefined,
    status: 'saved',
    problem: '',
  }));
  let stored = start;
  let waiting: readonly { readonly drawing: T; readonly title: string }[] = [];
  const latest = (): T => store.getState().kept ?? stored;
  const saving = createAutosave(start, {
    current: latest,
    same: Object.is,
    async write() {
      for (let [next] = waiting; next; [next] = waiting) {
        await write(next.drawing, next.title);
        stored = next.drawing;
        waiting = waiting.slice(1);
      }
    },
    // The next write is guarded by what is stored then.
    recognise: () => Promise.resolve(stored),
    tell(status, problem) {
      // From here on what is stored is shown, so that undo is seen.
      const isDone = status === 'saved' && waiting.length === 0;
      store.setState({ status: STATUS[status], problem, ...(isDone ? { kept: undefined } : {}) });
    },
  });
  return {
    ...store,
    latest,
    follow(next) {
      stored = next;
      if (waiting.length === 0) saving.adopt(latest());
    },
    show(shown) {
      store.setState({ shown });
    },
    keep(drawing, title) {
      store.setState({ shown: undefined, kept: drawing, status: 'saving' });
      waiting = [...waiting, { drawing, title }];
      void saving.flush();
    },
  };
}
