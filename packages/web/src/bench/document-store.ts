import { applyEdits, type TextEdit } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { NO_HISTORY, nextOf, travelled, withLast, withStep, type History } from '../history/history.ts';
import { derive, read, type Derived, type Look } from '../material/look.ts';

/** One undo: edits that lead back to the text before, and when it was made. */
interface Step {
  readonly back: readonly TextEdit[];
  readonly group: string | undefined;
  readonly at: number;
}

export interface DocumentState {
  readonly text: string;
  readonly derived: Derived;
  /** The newest look without errors; one with errors only where the text was opened with them. */
  readonly look: Look;
  /** The edits that led to this text from the one before; whoever shows the text follows them. */
  readonly lastEdits: readonly TextEdit[];
  readonly version: number;
  /** The last change was typed, and more may follow at once. */
  readonly typing: boolean;
  /** A drag is going on: it is one undo, and nothing is saved until it ends. */
  readonly dragging: boolean;
  readonly history: History<Step>;
}

export interface DocumentStore extends StoreApi<DocumentState> {
  /** Changes the text. Edits of one `group` in a row are one undo; typing goes on within a second. */
  readonly edit: (edits: readonly TextEdit[], group?: string) => void;
  readonly undo: () => boolean;
  readonly redo: () => boolean;
  readonly setDragging: (dragging: boolean) => void;
  /** Starts over with another text, with nothing to undo. */
  readonly load: (text: string) => void;
}

const TYPING_PAUSE = 1000;
const UNDO_LIMIT = 1000;

/** Edits that undo `edits`, counted in the text they make. */
export function inverse(text: string, edits: readonly TextEdit[]): TextEdit[] {
  let shift = 0;
  return [...edits]
    .sort((a, b) => a.from - b.from || a.to - b.to)
    .map(({ from, to, insert }) => {
      const start = from + shift;
      shift += insert.length - (to - from);
      return { from: start, to: start + insert.length, insert: text.slice(from, to) };
    });
}

/** Holds the text of one material, its undo, and all that follows from it. */
export function createDocumentStore(text: string, compiled = derive(text)): DocumentStore {
  const start = (of: string, derived: Derived): DocumentState => {
    return {
      text: of,
      derived,
      look: derived.look,
      lastEdits: [],
      version: 0,
      typing: false,
      dragging: false,
      history: NO_HISTORY,
    };
  };
  const store = createStore<DocumentState>(() => start(text, compiled));

  /** Compiles what typing has only read, in a task of its own, so that the next key finds the page free. */
  const finish = (): void => {
    const { derived, look } = store.getState();
    const full = derive(derived.text, derived, derived.program);
    store.setState({ derived: full, look: full.ok ? full.look : look });
  };
  let timer: ReturnType<typeof setTimeout> | undefined;

  const become = (edits: readonly TextEdit[], more: Partial<DocumentState>): void => {
    const state = store.getState();
    const next = applyEdits(state.text, edits);
    clearTimeout(timer);
    if (more.typing) {
      timer = setTimeout(finish, 0);
      store.setState({
        text: next,
        derived: read(next, state.derived),
        lastEdits: edits,
        version: state.version + 1,
        ...more,
      });
      return;
    }
    const derived = derive(next, state.derived);
    store.setState({
      text: next,
      derived,
      look: derived.ok ? derived.look : state.look,
      lastEdits: edits,
      version: state.version + 1,
      typing: false,
      ...more,
    });
  };

  const travel = (direction: 'undo' | 'redo'): boolean => {
    const { text: now, history } = store.getState();
    const step = nextOf(history, direction);
    if (!step) return false;
    const back: Step = { back: inverse(now, step.back), group: undefined, at: 0 };
    become(step.back, { history: travelled(history, direction, back) });
    return true;
  };

  return {
    ...store,
    edit(edits, group) {
      const state = store.getState();
      if (edits.every((e) => state.text.slice(e.from, e.to) === e.insert)) return;
      const now = Date.now();
      const last = nextOf(state.history, 'undo');
      const goesOn =
        group !== undefined &&
        last?.group === group &&
        (group !== 'typing' || now - last.at < TYPING_PAUSE) &&
        state.history.future.length === 0;
      const back = inverse(state.text, edits);
      const history = goesOn
        ? withLast(state.history, { back: composed(state.text, edits, last.back), group, at: now })
        : withStep(state.history, { back, group, at: now }, UNDO_LIMIT);
      become(edits, { history, typing: group === 'typing' });
    },
    undo: () => travel('undo'),
    redo: () => travel('redo'),
    setDragging(dragging) {
      const { history } = store.getState();
      const last = nextOf(history, 'undo');
      // The end of a drag closes its group.
      store.setState({
        dragging,
        ...(dragging || !last ? {} : { history: withLast(history, { ...last, group: undefined }) }),
      });
    },
    load(of) {
      store.setState({
        ...start(of, derive(of)),
        version: store.getState().version + 1,
        lastEdits: [{ from: 0, to: store.getState().text.length, insert: of }],
      });
    },
  };
}

/** How long typing must rest, in milliseconds, before what stands around the text follows it. */
const REST = 240;

/**
 * A document as those see it who need not follow every key: at once after any other change, after typing once it rests.
 */
export function debouncedOf(document: DocumentStore): StoreApi<DocumentState> {
  const store = createStore<DocumentState>(() => document.getState());
  let timer: ReturnType<typeof setTimeout> | undefined;
  const follow = (): void => {
    clearTimeout(timer);
    store.setState(document.getState(), true);
  };
  document.subscribe((state) => {
    clearTimeout(timer);
    if (state.typing) timer = setTimeout(follow, REST);
    else follow();
  });
  return store;
}

/** How long typing must rest, in milliseconds, before anything is worked out that can wait for it. */
export const TYPING_REST = 700;

/** How long after a key, in milliseconds, pictures give way to the next. */
const BURST = 250;

/** Keys are coming in quick succession. */
export function isTyping(document: DocumentStore): boolean {
  const last = nextOf(document.getState().history, 'undo');
  return last?.group === 'typing' && Date.now() - last.at < BURST;
}

/**
 * One edit that leads from the text after `edits` back to the text before an earlier change whose way back was
 * `earlier`.
 */
function composed(text: string, edits: readonly TextEdit[], earlier: readonly TextEdit[]): TextEdit[] {
  const before = applyEdits(text, earlier);
  const after = applyEdits(text, edits);
  let from = 0;
  while (from < before.length && from < after.length && before[from] === after[from]) from++;
  let tail = 0;
  while (
    tail < before.length - from &&
    tail < after.length - from &&
    before[before.length - 1 - tail] === after[after.length - 1 - tail]
  )
    tail++;
  return [{ from, to: after.length - tail, insert: before.slice(from, before.length - tail) }];
}
