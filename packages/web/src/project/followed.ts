import type { ProjectEvent } from '@estela/contract';
import type { StoreApi } from 'zustand/vanilla';
import { followProject } from '../api/events.ts';

/** Milliseconds after which something is read anew: what this page did itself is known by then. */
const PAUSE = 200;

/** Whether something here is behind what an event tells: `undefined` tells that anything may be. */
export const isBehind = (event: ProjectEvent | undefined, known: number | undefined): boolean =>
  event === undefined || (event.change === 'deleted' ? Number.isFinite(known) : (known ?? 0) < event.version);

/**
 * Tells of what has changed elsewhere in a project, or in all of them (undefined), some at a time; of `undefined` where
 * anything may have. Gives the function that ends it.
 */
export function followed(
  projectId: string | undefined,
  told: (events: readonly (ProjectEvent | undefined)[]) => void,
): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let waiting: (ProjectEvent | undefined)[] = [];
  const end = followProject(projectId, (event) => {
    waiting.push(event);
    timer ??= setTimeout(() => {
      timer = undefined;
      const events = waiting;
      waiting = [];
      told(events);
    }, PAUSE);
  });
  return () => {
    clearTimeout(timer);
    end();
  };
}

/**
 * Calls `load` where a thing of a kind has been changed elsewhere; `versionOf` tells which version of it is known here,
 * Infinity for what does not matter. Gives the function that ends it.
 */
export const followKind = (
  projectId: string,
  kind: ProjectEvent['kind'],
  versionOf: (id: string) => number | undefined,
  load: () => void,
): (() => void) =>
  followed(projectId, (events) => {
    if (events.some((e) => (e === undefined || e.kind === kind) && isBehind(e, e && versionOf(e.id)))) load();
  });

/**
 * A store of the things of a kind in a project, `things` of its state, which follows what happens elsewhere while anybody
 * listens to it; `load` reads them anew, also for what happened in between.
 */
export function followedWhileHeard<T>(
  store: StoreApi<T>,
  projectId: string,
  kind: ProjectEvent['kind'],
  things: (state: T) => readonly { readonly id: string; readonly version: number }[],
  load: () => Promise<void>,
): StoreApi<T> {
  const versionOf = (id: string): number | undefined => things(store.getState()).find((t) => t.id === id)?.version;
  let before = false;
  return whileHeard(store, () => {
    if (before) void load();
    before = true;
    return followKind(projectId, kind, versionOf, () => void load());
  });
}

/** A store that something goes on for while anybody listens to it: `begin` gives the function that ends it. */
export function whileHeard<T>(store: StoreApi<T>, begin: () => () => void): StoreApi<T> {
  let listeners = 0;
  let end: (() => void) | undefined;
  return {
    ...store,
    subscribe(listener) {
      if (listeners++ === 0) end = begin();
      const stop = store.subscribe(listener);
      let over = false;
      return () => {
        if (over) return;
        over = true;
        stop();
        if (--listeners === 0) end?.();
      };
    },
  };
}
