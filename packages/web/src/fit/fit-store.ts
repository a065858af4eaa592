import {
  allOf,
  isEmpty,
  islandsOf,
  mapUvsWithin,
  noneOf,
  NOTHING_SELECTED,
  partOf,
  type Bounds,
  type Fitted,
  type Fitting,
  type MeshData,
  type Refit,
  type UvMap,
} from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { sentence } from '../api/client.ts';
import type { Refitter } from '../workers/refitter.ts';
import { createSelecting, type Selecting } from './selecting.ts';
import { createAutosavedHistory, type AutosavedHistory, type Storing } from '../history/autosaved-history.ts';

/** Other UVs for what is selected, or why there are none. */
export type Change = (value: Fitting) => Fitted;
/** A map within what is selected. */
export const mapping =
  (of: (bounds: Bounds) => UvMap): Change =>
  ({ mesh, selected }) =>
    isEmpty(selected) ? NOTHING_SELECTED : mapUvsWithin(mesh, partOf(mesh, selected), of);

/** Why the last thing was not done, empty where it was; and the triangles that stood in its way. */
export interface Problem {
  readonly text: string;
  readonly triangles: readonly number[];
}
const NO_PROBLEM: Problem = { text: '', triangles: [] };

/**
 * The fitting of one mesh. What is asked for while the worker is at something is done after it, in order, with what is
 * selected then; until all is done nothing else can be selected, and undo takes back what was asked for last.
 */
export interface Fit {
  readonly kept: AutosavedHistory<Fitting>;
  readonly problem: StoreApi<Problem>;
  /** What is being worked at, and how much waits; empty where nothing does. */
  readonly working: StoreApi<string>;
  /** Selecting islands, faces and loops of them. */
  readonly selecting: Selecting;
  /**
   * Changes the selection's UVs, as one undo; islands stay what they are, even where they come to lie on each other.
   */
  readonly change: (title: string, act: Change) => void;
  /** Projects or cuts the selection anew, as one undo; settles once it is done, or is not to be. */
  readonly refit: (title: string, how: Refit) => Promise<void>;
  /** Ends what is being worked at, and what waits behind it. */
  readonly stop: () => void;
  /** Does what was asked for, and saves it. */
  readonly finish: () => Promise<void>;
  /** Lets the worker go. */
  readonly end: () => void;
  /** Shows a change while something is dragged; `commit` makes one undo of it. */
  readonly preview: (act: Change) => void;
  /** Goes back to what was before a drag. */
  readonly cancel: () => void;
  readonly commit: (title: string) => void;
}

interface Job {
  readonly title: string;
  readonly act: Change | Refit;
  /** Settles once it is done, or is not to be. */
  readonly over: Promise<void>;
  readonly end: () => void;
}

/** A mesh with nothing done to it: of one island that island is selected. */
export function fittingOf(mesh: MeshData): Fitting {
  const islands = islandsOf(mesh);
  return { mesh, islands, selected: islands.count === 1 ? allOf(mesh) : noneOf(mesh) };
}

/** `storing` keeps the mesh alone: what is selected is not stored. */
export function createFit(
  start: MeshData,
  { write, recognise, draft }: Omit<Storing<MeshData>, 'same'>,
  worker: Refitter,
): Fit {
  const all = createAutosavedHistory<Fitting>(fittingOf(start), {
    write: ({ mesh }) => write(mesh),
    async recognise(sent) {
      const mesh = await recognise(sent.map((s) => s.mesh));
      return sent.find((s) => s.mesh === mesh);
    },
    same: (a, b) => a.mesh === b.mesh,
    ...(draft && { draft: { keep: ({ mesh }: Fitting) => draft.keep(mesh), forget: draft.forget } }),
  });
  const problem = createStore(() => NO_PROBLEM);
  const working = createStore(() => '');
  let waiting: readonly Job[] = [];
  let dragged: Change | undefined;
  const wait = (jobs: readonly Job[]): void => {
    const ended = waiting.filter((job) => !jobs.includes(job));
    waiting = jobs;
    const [first, ...rest] = jobs;
    working.setState(
      first ? `${first.title}${rest.length === 0 ? '' : `, then ${rest.map((r) => r.title).join(', ')}`}` : '',
      true,
    );
    all.hold(jobs.length > 0);
    for (const { end } of ended) end();
  };
  const settle = (job: Job, done: Fitted | Fitting): void => {
    if ('problem' in done) {
      // What was asked for after it counted on it.
      const lost = waiting.slice(1).map(({ title }) => `"${title}"`);
      const text =
        lost.length === 0
          ? done.problem
          : `${done.problem} So ${lost.join(', ')} ${lost.length === 1 ? 'was' : 'were'} not done either.`;
      problem.setState({ text, triangles: done.triangles ?? [] }, true);
      wait([]);
      return;
    }
    all.become(job.title, { ...all.settled(), ...done });
    wait(waiting.slice(1));
    next();
  };
  const next = (): void => {
    const [job] = waiting;
    if (!job) return;
    problem.setState(NO_PROBLEM, true);
    if (typeof job.act === 'function') {
      settle(job, job.act(all.settled()));
      return;
    }
    const refusal = (error: unknown) => ({ problem: `Not done. ${sentence(error)}` });
    void worker
      .refit(all.settled(), job.act)
      .catch(refusal)
      .then((done) => {
        if (waiting[0] === job) settle(job, done);
      });
  };
  const ask = (title: string, act: Change | Refit): Promise<void> => {
    let end = (): void => undefined;
    const over = new Promise<void>((resolve) => (end = resolve));
    wait([...waiting, { title, act, over, end }]);
    if (waiting.length === 1) next();
    return over;
  };
  const stop = (): void => {
    wait([]);
    worker.stop();
  };
  const cancel = (): void => {
    dragged = undefined;
    all.preview(undefined);
  };
  const selecting = createSelecting(
    () => all.getState().value,
    (selected) => {
      if (waiting.length > 0) return;
      problem.setState(NO_PROBLEM, true);
      all.put({ ...all.getState().value, selected });
    },
    worker,
  );
  return {
    kept: {
      ...all,
      undo() {
        if (waiting.length > 1) wait(waiting.slice(0, -1));
        else if (waiting.length === 1) stop();
        else all.undo();
      },
      redo() {
        // What is still to be done comes after what was taken back.
        if (waiting.length === 0) all.redo();
      },
    },
    problem,
    working,
    stop,
    async finish() {
      await Promise.all(waiting.map(({ over }) => over));
      await all.flush();
    },
    end: worker.stop,
    selecting,
    change(title, act) {
      void ask(title, act);
    },
    refit: ask,
    preview(act) {
      dragged = act;
      const done = act(all.settled());
      problem.setState('problem' in done ? { text: done.problem, triangles: [] } : NO_PROBLEM, true);
      if (!('problem' in done)) all.preview({ ...all.getState().value, ...done });
    },
    cancel,
    commit(title) {
      const act = dragged;
      cancel();
      if (act) void ask(title, act);
    },
  };
}
