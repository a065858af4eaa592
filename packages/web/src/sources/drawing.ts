import { createStore, type StoreApi } from 'zustand/vanilla';
import { sentence } from '../api/client.ts';

export interface DrawingState<T> {
  /** What the hand is changing right now. */
  readonly shown: T | undefined;
  /** What was kept last and is not stored yet. */
  readonly kept: T | undefined;
  readonly status: 'stored' | 'storing' | 'failed';
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

/** Stores what is kept of a drawing, one after the other. */
export function createDrawing<T extends object>(
  start: T,
  write: (drawing: T, title: string) => Promise<unknown>,
): Drawing<T> {
  const store = createStore<DrawingState<T>>(() => ({
    shown: undefined,
    kept: undefined,
    status: 'stored',
    problem: '',
  }));
  let stored = start;
  let chain = Promise.resolve();
  const send = async (drawing: T, title: string): Promise<void> => {
    const newest = (): boolean => store.getState().kept === drawing;
    try {
      await write(drawing, title);
      stored = drawing;
      // From here on what is stored is shown, so that undo is seen.
      if (newest()) store.setState({ kept: undefined, status: 'stored', problem: '' });
    } catch (error) {
      if (newest()) store.setState({ status: 'failed', problem: sentence(error) });
    }
  };
  return {
    ...store,
    latest: () => store.getState().kept ?? stored,
    follow(next) {
      stored = next;
    },
    show(shown) {
      store.setState({ shown });
    },
    keep(drawing, title) {
      store.setState({ shown: undefined, kept: drawing, status: 'storing' });
      chain = chain.then(() => send(drawing, title));
    },
  };
}
