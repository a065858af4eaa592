import { islandsOf, mappedWithin, NOTHING_CHOSEN, partOf, type Bounds, type Fitting, type MeshData, type Refit, type UvMap } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { sentence } from '../api/client.ts';
import { createKept, type Kept } from '../app/kept.ts';

export interface Fit {
  readonly kept: Kept<Fitting>;
  /** Why the last thing was not done; empty where it was. */
  readonly problem: StoreApi<string>;
  /** What is being worked at; empty where nothing is. */
  readonly working: StoreApi<string>;
  readonly choose: (islands: Iterable<number>) => void;
  /** Maps the chosen islands' UVs, as one undo; they keep their islands, even where they come to lie on each other. */
  readonly map: (title: string, of: (bounds: Bounds) => UvMap) => void;
  /** Lays or cuts the chosen islands anew, as one undo, once the worker has done it and what was asked before; says why where it cannot be done. */
  readonly refit: (title: string, how: Refit) => Promise<void>;
  /** Ends what is being worked at, and what waits behind it. */
  readonly stop: () => void;
  /** Shows other UVs while something is dragged, unless those that it started `from` are no more; `commit` makes one undo of it. */
  readonly preview: (from: MeshData, next: MeshData) => void;
  /** Goes back to what was before a drag. */
  readonly cancel: () => void;
  readonly commit: (title: string) => void;
}

/** Who lays meshes anew, away from the page. */
export interface Refitter {
  readonly refit: (fitting: Fitting, how: Refit) => Promise<Fitting | { readonly problem: string }>;
  /** Ends what is under way; its promise may stay open for ever. */
  readonly stop: () => void;
}

/** The fitting of one mesh. `write` sends it. */
export function createFit(start: MeshData, write: (mesh: MeshData) => Promise<unknown>, worker: Refitter): Fit {
  const islands = islandsOf(start);
  const all = createKept<Fitting>(
    { mesh: start, islands, chosen: new Set(islands.count === 1 ? [0] : []) },
    ({ mesh }) => write(mesh),
    (a, b) => a.mesh === b.mesh,
  );
  const problem = createStore(() => '');
  const working = createStore(() => '');
  let waiting: { readonly title: string; readonly how: Refit; readonly done: () => void }[] = [];
  const drop = (): void => {
    const ended = waiting;
    waiting = [];
    working.setState('', true);
    for (const { done } of ended) done();
  };
  const stop = (): void => {
    drop();
    worker.stop();
  };
  /** What is under way started from UVs that are no more. */
  const supersede = (): void => {
    const title = working.getState();
    if (title === '') return;
    stop();
    problem.setState(`"${title}" was stopped, since the UVs were changed meanwhile.`, true);
  };
  const next = async (): Promise<void> => {
    const [job] = waiting;
    if (!job) return;
    problem.setState('', true);
    working.setState(job.title, true);
    const done = await worker.refit(all.settled(), job.how).catch((error: unknown) => ({ problem: `It could not be done. ${sentence(error)}` }));
    if (waiting[0] !== job) return;
    if ('problem' in done) {
      problem.setState(done.problem, true);
      // What was asked for after it counted on it.
      drop();
      return;
    }
    waiting = waiting.slice(1);
    working.setState('', true);
    all.become(job.title, done);
    job.done();
    await next();
  };
  const kept: Kept<Fitting> = {
    ...all,
    undo() {
      // What is not done yet is what would be taken back.
      if (waiting.length > 0) stop();
      else all.undo();
    },
    redo() {
      supersede();
      all.redo();
    },
  };
  return {
    kept,
    problem,
    working,
    stop,
    choose(which) {
      if (waiting.length === 0) problem.setState('', true);
      all.put({ ...all.getState().value, chosen: new Set(which) });
    },
    map(title, of) {
      const value = all.getState().value;
      const done = value.chosen.size === 0 ? NOTHING_CHOSEN : mappedWithin(value.mesh, partOf(value.islands, value.chosen), of);
      if ('problem' in done) {
        problem.setState(done.problem, true);
        return;
      }
      problem.setState('', true);
      supersede();
      all.become(title, { ...value, mesh: done.mesh });
    },
    refit(title, how) {
      return new Promise((done) => {
        waiting = [...waiting, { title, how, done }];
        if (waiting.length === 1) void next();
      });
    },
    preview(from, mesh) {
      if (all.settled().mesh !== from) return;
      supersede();
      all.preview({ ...all.getState().value, mesh });
    },
    cancel() {
      all.preview(undefined);
    },
    commit: all.commit,
  };
}
