import type { Budget, Finding, Report } from '@estela/core';
import { proxy } from 'comlink';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { refsOf } from '../../project/supply.ts';
import type { SourcesStore } from '../../project/sources-store.ts';
import { material } from '../../workers/material.ts';
import type { Subject } from '../../workers/material.worker.ts';
import { TYPING_REST, type DocumentState } from '../document-store.ts';
import { recall, remember } from '../../ui/memory.ts';
import type { Drawable } from '../../viewport/use-drawn.ts';
import type { ShownState } from '../session.ts';

export interface ChecksState {
  /** The newest report of a text without errors, and that text. */
  readonly report: Report | undefined;
  readonly text: string;
  /**
   * What was found last, and the text it was found in: an older one for a moment after a change, so that lists do not
   * empty and fill.
   */
  readonly findings: readonly Finding[];
  readonly foundIn: string;
  /** The report is not yet all of the text that stands there. */
  readonly working: boolean;
  readonly budget: Budget;
  /** Width over height of the surface that the material is for. */
  readonly aspect: number;
}

export interface ChecksStore extends StoreApi<ChecksState> {
  readonly setBudget: (budget: Budget) => void;
  readonly setAspect: (aspect: number) => void;
  /** Examines whenever text, variant, sources or settings change; ends with the function it gives. */
  readonly watch: () => () => void;
}

const keyOf = (project: string): string => `estela.checks.${project}`;

function remembered(project: string): Pick<ChecksState, 'budget' | 'aspect'> {
  const kept = recall<Pick<ChecksState, 'budget' | 'aspect'>>(keyOf(project));
  return { budget: kept.budget ?? {}, aspect: typeof kept.aspect === 'number' && kept.aspect > 0 ? kept.aspect : 1 };
}

/** What is asked about a material, as it stands. */
export const subjectOf = ({ derived }: DocumentState, { variant }: ShownState, sources: SourcesStore): Subject => ({
  text: derived.text,
  variant: derived.program.variants.some((v) => v.name === variant) ? variant : undefined,
  pictures: refsOf(sources.getState().sources),
});

/** Tells of all that a subject is made of, once it is another; and whether it is the text. Ends with what it gives. */
function watchSubject(
  document: StoreApi<DocumentState>,
  shown: StoreApi<ShownState>,
  sources: SourcesStore,
  changed: (isText: boolean) => void,
): () => void {
  const ends = [
    document.subscribe((state, before) => {
      if (state.derived.text !== before.derived.text) changed(true);
    }),
    shown.subscribe((state, before) => {
      if (state.variant !== before.variant) changed(false);
    }),
    sources.subscribe(() => {
      changed(false);
    }),
  ];
  return () => {
    for (const end of ends) end();
  };
}

/**
 * The open material, for those who work something out of it: after typing once it rests, since pictures give way to
 * keys.
 */
export function drawableOf(
  debounced: StoreApi<DocumentState>,
  shown: StoreApi<ShownState>,
  sources: SourcesStore,
): Drawable {
  return {
    subject: () =>
      debounced.getState().derived.ok ? subjectOf(debounced.getState(), shown.getState(), sources) : undefined,
    watch(changed) {
      let rest: ReturnType<typeof setTimeout> | undefined;
      const end = watchSubject(debounced, shown, sources, (isText) => {
        if (isText) clearTimeout(rest);
        if (isText && debounced.getState().typing) rest = setTimeout(changed, TYPING_REST);
        else changed();
      });
      return () => {
        clearTimeout(rest);
        end();
      };
    },
  };
}

/**
 * Milliseconds that a text must rest before it is looked into: a dial under the hand asks for the newest only, and keys
 * are not to be held up.
 */
const REST = 60;

/**
 * Keeps a report of the material up to date, in a worker; the proof is there first. Budget and aspect are kept in this
 * browser, for each project.
 */
export function createChecks(
  project: string,
  document: StoreApi<DocumentState>,
  shown: StoreApi<ShownState>,
  sources: SourcesStore,
): ChecksStore {
  const store = createStore<ChecksState>(() => ({
    report: undefined,
    text: '',
    findings: [],
    foundIn: '',
    working: false,
    ...remembered(project),
  }));
  let timer: ReturnType<typeof setTimeout> | undefined;
  let asked = 0;
  const ask = (): void => {
    clearTimeout(timer);
    timer = setTimeout(
      () => {
        const state = document.getState();
        if (!state.derived.ok) {
          store.setState({ working: false });
          return;
        }
        const mine = ++asked;
        const { aspect, budget } = store.getState();
        const subject = subjectOf(state, shown.getState(), sources);
        store.setState({ working: true });
        const tell = (report: Report): void => {
          if (mine !== asked) return;
          const before = store.getState();
          // What only evaluation can tell is that of before until it is known anew, so that nothing around the text
          // jumps.
          const proof = report.stage === 'proof';
          const jump = report.jump ?? before.report?.jump;
          const variants = proof && before.report ? before.report.variants : report.variants;
          const idle = proof && before.report ? before.report.idle : report.idle;
          store.setState({
            report: { ...report, variants, idle, ...(jump ? { jump } : {}) },
            text: subject.text,
            working: report.stage !== 'done',
            ...(proof ? {} : { findings: report.findings, foundIn: subject.text }),
          });
        };
        material('examine')
          .examine(subject, aspect, budget, proxy(tell))
          .catch(() => {
            store.setState({ working: false });
          });
      },
      document.getState().typing ? TYPING_REST : REST,
    );
  };
  const changed = (): void => {
    const { budget, aspect } = store.getState();
    remember(keyOf(project), { budget, aspect });
    ask();
  };
  return {
    ...store,
    setBudget(budget) {
      store.setState({ budget });
      changed();
    },
    setAspect(aspect) {
      store.setState({ aspect });
      changed();
    },
    watch() {
      const end = watchSubject(document, shown, sources, ask);
      ask();
      return () => {
        asked++;
        clearTimeout(timer);
        end();
      };
    },
  };
}
