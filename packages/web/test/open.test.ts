import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { createStore } from 'zustand/vanilla';
import { ApiError, type StoredSet } from '../src/api/client.ts';
import { RETRY_PAUSE, SAVE_PAUSE } from '../src/history/autosave.ts';
import { holdOpen, stillOpen } from '../src/ui/held-open.ts';
import { saveAgain } from '../src/history/autosaved-history.ts';
import { openSet } from '../src/sets/open-set.ts';
import type { SetsStore } from '../src/project/sets-store.ts';

describe('a set that is open', () => {
  /** A server with one set; `mode` says whether it is there, and whether its answers arrive. */
  class Server {
    set = { id: 's', projectId: 'p', name: 'Vents', version: 1, items: [] } as unknown as StoredSet;
    mode: 'well' | 'lost' | 'away' = 'well';
    saved: string[] = [];
    #told: ((state: { sets: StoredSet[] }) => void) | undefined;
    /** Somebody else saves, and all who listen are told. */
    saveElsewhere(name: string): void {
      this.set = { ...this.set, name, version: this.set.version + 1 };
      this.#told?.({ sets: [this.set] });
    }
    readonly store = {
      subscribe: (told: (state: { sets: StoredSet[] }) => void) => {
        this.#told = told;
        return () => (this.#told = undefined);
      },
      save: async (next: StoredSet) => {
        await Promise.resolve();
        if (this.mode === 'away') throw new ApiError(0, 'away');
        if (next.version !== this.set.version) throw new ApiError(412, 'changed');
        this.set = { ...next, version: next.version + 1 };
        this.saved.push(next.name);
        if (this.mode === 'lost') throw new ApiError(0, 'lost');
        return this.set;
      },
    } as unknown as SetsStore;
  }
  let server: Server;
  beforeEach(() => {
    jest.useFakeTimers();
    server = new Server();
    globalThis.fetch = () => Promise.resolve(new Response(JSON.stringify([server.set])));
  });
  afterEach(() => {
    jest.useRealTimers();
  });
  const open = async () => {
    const { kept, refresh } = await openSet(server.store, server.set);
    const name = (to: string): void => {
      kept.become('rename', { ...kept.settled(), name: to });
    };
    return { kept, refresh, name };
  };

  it('is saved once the server is back, though nothing more is changed', async () => {
    const { kept, name } = await open();
    server.mode = 'away';
    name('Ducts');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE + 10 * RETRY_PAUSE);
    expect([kept.getState().saving, server.saved]).toEqual(['away', []]);
    server.mode = 'well';
    await jest.advanceTimersByTimeAsync(RETRY_PAUSE);
    expect([kept.getState().saving, server.saved]).toEqual(['saved', ['Ducts']]);
  });

  it('takes what is saved elsewhere as one undo, where nothing of its own waits to be saved', async () => {
    const { kept, name } = await open();
    server.saveElsewhere('Ducts');
    expect([kept.getState().value.name, kept.getState().saving]).toEqual(['Ducts', 'saved']);
    await jest.advanceTimersByTimeAsync(10 * SAVE_PAUSE);
    expect(server.saved).toEqual([]);
    kept.undo();
    expect(kept.settled().name).toBe('Vents');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE);
    expect([kept.getState().saving, server.saved]).toEqual(['saved', ['Vents']]);
    // What is typed or dragged here is not taken away: its save tells.
    name('Pipes');
    server.saveElsewhere('Hoses');
    expect(kept.settled().name).toBe('Pipes');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE);
    expect([kept.getState().saving, kept.settled().name]).toEqual(['stale', 'Pipes']);
  });

  it('recognises its own change whose answer was lost, but not another one', async () => {
    const { kept, name, refresh } = await open();
    server.mode = 'lost';
    name('Ducts');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE);
    server.mode = 'well';
    name('Pipes');
    await jest.advanceTimersByTimeAsync(RETRY_PAUSE);
    expect([kept.getState().saving, server.saved]).toEqual(['saved', ['Ducts', 'Pipes']]);
    server.set = { ...server.set, name: 'Theirs', version: 9 };
    name('Mine');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE);
    expect([kept.getState().saving, server.set.name]).toEqual(['stale', 'Theirs']);
    await refresh();
    await kept.saveOver();
    expect([kept.getState().saving, server.set.name]).toEqual(['saved', 'Mine']);
  });

  it('tried again after the server was away, does not go over what was saved there meanwhile; only once that was told', async () => {
    const { kept, name, refresh } = await open();
    server.mode = 'away';
    name('Mine');
    await jest.advanceTimersByTimeAsync(SAVE_PAUSE);
    expect(kept.getState().saving).toBe('away');
    server.mode = 'well';
    server.set = { ...server.set, name: 'Theirs', version: 9 };
    await saveAgain(kept, refresh);
    expect([kept.getState().saving, server.set.name]).toEqual(['stale', 'Theirs']);
    await expect(saveAgain(kept, () => Promise.reject(new Error('The server cannot be reached.')))).rejects.toThrow(
      'cannot be reached',
    );
    expect([kept.getState().saving, server.set.name]).toEqual(['stale', 'Theirs']);
    await saveAgain(kept, refresh);
    expect([kept.getState().saving, server.set.name]).toEqual(['saved', 'Mine']);
  });
});

describe('what is left before it is saved', () => {
  /** Something that is saved when `flush` is told to do it. */
  const thing = (saved = false) => {
    const store = createStore(() => ({ saved }));
    const ends: string[] = [];
    const isSaved = (): boolean => store.getState().saved;
    return {
      ends,
      save: () => {
        store.setState({ saved: true });
      },
      unsaved: {
        thing: store,
        store,
        isSaved,
        isLost: () => true,
        flush: () => Promise.resolve(),
        end: () => void ends.push('end'),
      },
    };
  };

  it('is found again as it was, until it is saved', async () => {
    const { unsaved, save, ends } = thing();
    holdOpen('a', unsaved)();
    await Promise.resolve();
    expect([stillOpen('a'), ends]).toEqual([unsaved.thing, []]);
    save();
    expect([stillOpen('a'), ends]).toEqual([undefined, ['end']]);
    const saved = thing(true);
    holdOpen('b', saved.unsaved)();
    await Promise.resolve();
    expect([stillOpen('b'), saved.ends]).toEqual([undefined, ['end']]);
  });
});
