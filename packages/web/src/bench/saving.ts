import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, ApiError, sentence, type Material } from '../api/client.ts';
import type { DocumentState, DocumentStore } from './document-store.ts';
import { forgetDraft, keepDraft } from './drafts.ts';

/** `away`: the server cannot be reached; the text is kept in the browser and sent when it is back. */
export type SaveStatus = 'saved' | 'waiting' | 'saving' | 'stale' | 'failed' | 'away';

export interface SaveState {
  readonly status: SaveStatus;
  readonly revision: number;
  /** What went wrong, for `stale` and `failed`. */
  readonly message: string;
}

/** How long typing must rest before it is saved, in milliseconds. */
export const SAVE_PAUSE = 800;
const RETRY_PAUSE = 4000;

export interface Saver extends StoreApi<SaveState> {
  /** Saves at once what is not saved yet. */
  readonly flush: () => Promise<void>;
  /** After a stale save: saves this text over the newer one; over that revision and no newer one, where it is given. */
  readonly saveOver: (seen?: number) => Promise<void>;
  /** After a stale save: takes the newer text; the text here can be had back by undo. */
  readonly takeTheirs: () => Promise<void>;
  /** Watches the document from now on; gives the function that ends it. */
  readonly watch: () => () => void;
}

/** Saves a document by itself a moment after each change, one request at a time, and never over a newer one unseen. */
export function createSaver(document: DocumentStore, material: Material, revision = material.revision): Saver {
  const store = createStore<SaveState>(() => ({ status: 'saved', revision, message: '' }));
  let saved = material.text;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let watching = false;

  const plan = (pause: number): void => {
    clearTimeout(timer);
    if (watching) timer = setTimeout(() => void save(), pause);
  };

  async function save(): Promise<void> {
    clearTimeout(timer);
    const { text, dragging } = document.getState();
    const { status, revision } = store.getState();
    if (status === 'saving' || status === 'stale') return;
    if (dragging && watching) {
      plan(SAVE_PAUSE);
      return;
    }
    if (text === saved) {
      forgetDraft(material.id);
      store.setState({ status: 'saved', message: '' });
      return;
    }
    store.setState({ status: 'saving' });
    try {
      const answer = await api.saveMaterial(material.id, text, revision);
      saved = text;
      const newer = document.getState().text !== text;
      store.setState({ status: newer ? 'waiting' : 'saved', revision: answer.revision, message: '' });
      if (newer) plan(SAVE_PAUSE);
      else forgetDraft(material.id);
    } catch (error) {
      const isStale = error instanceof ApiError && error.status === 412;
      const isAway = error instanceof ApiError && (error.status === 0 || error.status >= 502);
      store.setState({ status: isStale ? 'stale' : isAway ? 'away' : 'failed', message: sentence(error) });
      if (!isStale && !(error instanceof ApiError && error.status >= 400 && error.status < 500)) plan(RETRY_PAUSE);
    }
  }

  const changed = (state: DocumentState, before: DocumentState): void => {
    if (state.text === before.text && state.dragging === before.dragging) return;
    if (state.text !== saved) keepDraft(material.id, store.getState().revision, state.text);
    if (store.getState().status !== 'stale') {
      const { status } = store.getState();
      if (status !== 'saving' && status !== 'away') store.setState({ status: state.text === saved ? 'saved' : 'waiting' });
      plan(SAVE_PAUSE);
    }
  };

  return {
    ...store,
    flush: save,
    async saveOver(seen) {
      try {
        const revision = seen ?? (await api.material(material.id)).revision;
        store.setState({ status: 'waiting', revision, message: '' });
        await save();
      } catch (error) {
        store.setState({ message: sentence(error) });
      }
    },
    async takeTheirs() {
      try {
        const { text, revision } = await api.material(material.id);
        saved = text;
        store.setState({ status: 'saved', revision, message: '' });
        document.edit([{ from: 0, to: document.getState().text.length, insert: text }]);
      } catch (error) {
        store.setState({ message: sentence(error) });
      }
    },
    watch() {
      watching = true;
      const unsubscribe = document.subscribe(changed);
      if (document.getState().text !== saved) plan(SAVE_PAUSE);
      return () => {
        watching = false;
        unsubscribe();
        void save();
      };
    },
  };
}
