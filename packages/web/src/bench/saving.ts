import type { TextEdit } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, ApiError, sentence, type Material } from '../api/client.ts';
import { createAutosave, type SaveStatus } from '../history/autosave.ts';
import type { DraftKeeper } from '../history/drafts.ts';
import type { DocumentState, DocumentStore } from './document-store.ts';

/** The one edit that makes a text of another: what they share at both ends stays, and so does a cursor in it. */
export function spliceOf(before: string, after: string): TextEdit[] {
  if (before === after) return [];
  const most = Math.min(before.length, after.length);
  let head = 0;
  while (head < most && before[head] === after[head]) head++;
  let tail = 0;
  while (tail < most - head && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail++;
  return [{ from: head, to: before.length - tail, insert: after.slice(head, after.length - tail) }];
}

export interface SaveState {
  readonly status: SaveStatus;
  readonly revision: number;
  /** What went wrong; empty where nothing did. */
  readonly message: string;
  /** What is not saved is kept in this browser. */
  readonly kept: boolean;
  /** The material was deleted elsewhere. */
  readonly gone: boolean;
}

export interface Saver extends StoreApi<SaveState> {
  /** Saves at once what is not saved yet. */
  readonly flush: () => Promise<void>;
  /** After a stale save: saves this text over the newer one; over that revision and no newer one, where it is given. */
  readonly saveOver: (seen?: number) => Promise<void>;
  /** After a stale save: takes the newer text; the text here can be had back by undo. */
  readonly takeTheirs: () => Promise<void>;
  /** Brings back a material that was deleted, and saves the text to it. */
  readonly restore: () => Promise<void>;
  /** Takes what was saved elsewhere, where nothing here waits to be saved; undo leads back. */
  readonly look: () => Promise<void>;
  /** Watches the document from now on; gives the function that ends it. */
  readonly watch: () => () => void;
}

/**
 * Saves a document by itself a moment after each change, and keeps a draft of it in the browser until it is. `revision`
 * is the one its text began from.
 */
export function createSaver(
  document: DocumentStore,
  material: Material,
  draft: DraftKeeper,
  revision = material.revision,
): Saver {
  const { id } = material;
  const store = createStore<SaveState>(() => ({ status: 'saved', revision, message: '', kept: false, gone: false }));
  let watching = false;
  /** Something newer may be stored, which was not looked at. */
  let behind = false;
  const autosave = createAutosave(material.text, {
    current: () => document.getState().text,
    same: Object.is,
    async write(text) {
      try {
        const answer = await api.saveMaterial(id, text, store.getState().revision);
        store.setState({ revision: answer.revision, gone: false });
      } catch (error) {
        store.setState({ gone: error instanceof ApiError && error.status === 404 });
        throw error;
      }
    },
    async recognise(sent) {
      const { text, revision } = await api.material(id);
      const known = sent.find((s) => s === text);
      if (known !== undefined) store.setState({ revision });
      return known;
    },
    busy: () => watching && document.getState().dragging,
    tell(status, message) {
      if (status === 'saved') {
        draft.forget();
        store.setState({ kept: false });
        if (behind) queueMicrotask(() => void look());
      }
      // A save was done, and there is more: it goes on from another revision.
      const more = status === 'waiting' && store.getState().status === 'saving';
      store.setState({ status, message });
      if (more) keep();
    },
  });
  const keep = (): void => {
    const { text, derived } = document.getState();
    store.setState({ kept: draft.keep({ title: derived.program.title, revision: store.getState().revision, text }) });
  };
  const changed = (state: DocumentState, before: DocumentState): void => {
    if (state.text === before.text && state.dragging === before.dragging) return;
    if (state.text !== before.text) keep();
    autosave.touch();
  };
  const look = async (): Promise<void> => {
    behind = store.getState().status !== 'saved' || document.getState().dragging;
    if (behind) return;
    try {
      const { text, revision } = await api.material(id);
      // Where typing went on meanwhile, its save tells.
      const now = store.getState();
      if (now.status !== 'saved' || document.getState().dragging || revision <= now.revision) return;
      store.setState({ revision });
      document.edit(spliceOf(document.getState().text, text));
      autosave.adopt(text);
    } catch (error) {
      if (error instanceof ApiError && error.status === 404)
        store.setState({ status: 'failed', gone: true, message: sentence(error) });
    }
  };
  const asking = async (act: () => Promise<void>): Promise<void> => {
    try {
      await act();
    } catch (error) {
      store.setState({ message: sentence(error) });
    }
  };
  return {
    ...store,
    flush: autosave.flush,
    look,
    saveOver: (seen) =>
      asking(async () => {
        store.setState({ revision: seen ?? (await api.material(id)).revision });
        await autosave.saveOver();
      }),
    takeTheirs: () =>
      asking(async () => {
        const { text, revision } = await api.material(id);
        store.setState({ revision });
        document.edit([{ from: 0, to: document.getState().text.length, insert: text }]);
        autosave.adopt(text);
      }),
    restore: () =>
      asking(async () => {
        const { revision } = await api.restoreMaterial(id);
        store.setState({ revision });
        await autosave.saveOver();
      }),
    watch() {
      watching = true;
      const unsubscribe = document.subscribe(changed);
      // What was brought back from another opening is kept under this one's name too.
      if (document.getState().text !== material.text) keep();
      autosave.touch();
      return () => {
        watching = false;
        unsubscribe();
        void autosave.flush();
      };
    },
  };
}
