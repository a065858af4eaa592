import { closeBrackets, closeBracketsKeymap, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap } from '@codemirror/commands';
import { lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, searchKeymap } from '@codemirror/search';
import { Annotation, EditorState } from '@codemirror/state';
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { linesOf } from '@estela/core';
import type { StoreApi } from 'zustand/vanilla';
import type { ChecksState } from '../checks/checks-store.ts';
import type { Derived } from '../../material/look.ts';
import type { SourcesStore } from '../../project/sources-store.ts';
import type { ProbedState } from '../session.ts';
import { followProbe, probeValues } from './probe-values.ts';
import { completion } from './completion.ts';
import { showDiagnostics } from './diagnostics.ts';
import { highlight, showTree } from './highlight.ts';
import { lineTools, showTools, type OpenPanel } from './line-tools.ts';
import { followPeriods, stepPeriods } from './periods.ts';
import { scoreTheme } from './score-theme.ts';
import { settingsFold, showSettings } from './settings-fold.ts';
import { showMargin, stepMargin, type MarginHost } from './step-margin.ts';
import { showValues, valueHands, type OpenValue } from './value-hands.ts';
import { isSameStep, nextStep, stepRefOf, type StepRef } from '../../material/step-ref.ts';
import { aloneIn, selectedIn } from '../selection.ts';

/** Marks changes that come from the document, not from typing. */
const fromDocument = Annotation.define<true>();

/** What the Score is made of, and whom it tells. */
export interface ScoreHost extends Omit<MarginHost, 'openStep'> {
  readonly openPanel: OpenPanel;
  readonly openValue: OpenValue;
  readonly probed: StoreApi<ProbedState>;
  readonly checks: StoreApi<ChecksState>;
  readonly insert: () => void;
  readonly importFiles: () => void;
  readonly sources: SourcesStore;
  /** The id of the material, by which it is kept whether its settings are folded. */
  readonly material: string;
}

/** The step whose lines hold a place of the text, by index. */
export function stepIndexAt({ program, text }: Derived, at: number): number | undefined {
  const index = program.steps.findLastIndex((s) => linesOf(text, s.span).from <= at);
  const step = program.steps[index];
  return step && at <= linesOf(text, step.span).to ? index : undefined;
}
function stepAt(derived: Derived, at: number): StepRef | undefined {
  const index = stepIndexAt(derived, at);
  return index === undefined ? undefined : stepRefOf(derived.program, index);
}

/** An editor in `parent` that shows a document and writes into it; gives the function that takes it away. */
export function createScore(parent: HTMLElement, score: ScoreHost): () => void {
  const { document, selection, openPanel: open, openValue } = score;
  const host: MarginHost = {
    ...score,
    openStep(index) {
      const { program } = document.getState().derived;
      const step = program.steps[index];
      if (step) view.dispatch({ selection: { anchor: step.span.from } });
      selection.setState({ step: stepRefOf(program, index) });
      open({ kind: 'step' });
    },
  };
  const choose = (): void => {
    // A text that was only opened has no step selected.
    if (!view.hasFocus && selection.getState().step === undefined) return;
    const step = stepAt(document.getState().derived, view.state.selection.main.head);
    if (!isSameStep(step, selection.getState().step)) selection.setState({ step });
  };
  const walk = (by: 1 | -1) => (): boolean => {
    const { program } = document.getState().derived;
    const alone = aloneIn(program, selection.getState());
    if (alone) selection.setState({ alone: nextStep(program, alone, by) });
    return alone !== undefined;
  };
  const view: EditorView = new EditorView({
    parent,
    state: EditorState.create({
      doc: document.getState().text,
      extensions: [
        lineNumbers(),
        stepMargin,
        highlightActiveLine(),
        drawSelection(),
        highlightSelectionMatches(),
        closeBrackets(),
        completion(document, score.sources),
        valueHands(document, openValue),
        highlight,
        settingsFold(score.material, open, document.getState().derived.program),
        lineTools,
        stepPeriods,
        probeValues,
        scoreTheme,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': 'Text of the material', spellcheck: 'false' }),
        keymap.of([
          { key: 'Mod-z', run: () => document.undo(), preventDefault: true },
          { key: 'Mod-y', mac: 'Mod-Shift-z', run: () => document.redo(), preventDefault: true },
          { key: 'Mod-Shift-z', run: () => document.redo(), preventDefault: true },
          // While a step is alone on the Stage these go through the steps; else they move the line.
          { key: 'Alt-ArrowUp', run: walk(-1) },
          { key: 'Alt-ArrowDown', run: walk(1) },
          {
            key: 'Mod-k',
            preventDefault: true,
            run: () => {
              score.insert();
              return true;
            },
          },
          {
            key: 'Mod-i',
            preventDefault: true,
            run: () => {
              score.importFiles();
              return true;
            },
          },
          ...closeBracketsKeymap,
          ...completionKeymap,
          ...searchKeymap,
          ...lintKeymap,
          ...defaultKeymap,
        ]),
        // Undo by the browser's own menu.
        EditorView.domEventHandlers({
          beforeinput: ({ inputType }) => {
            if (inputType === 'historyUndo') document.undo();
            else if (inputType === 'historyRedo') document.redo();
            else return false;
            return true;
          },
        }),
        EditorView.updateListener.of((update) => {
          if (update.selectionSet) queueMicrotask(choose);
          if (!update.docChanged || update.transactions.every((t) => t.annotation(fromDocument))) return;
          const edits: { from: number; to: number; insert: string }[] = [];
          update.changes.iterChanges((from, to, _start, _end, inserted) => {
            edits.push({ from, to, insert: inserted.toString() });
          });
          const typed = update.transactions.some(
            (t) => t.isUserEvent('input.type') || t.isUserEvent('delete.backward'),
          );
          document.edit(edits, typed ? 'typing' : undefined);
        }),
      ],
    }),
  });

  // The margin holds buttons, so it is not hidden from those who read with their ears.
  view.dom.querySelector('.cm-gutters')?.removeAttribute('aria-hidden');

  const show = (): void => {
    const { text, lastEdits, derived } = document.getState();
    if (view.state.doc.toString() !== text) {
      const { doc } = view.state;
      const fits =
        lastEdits.reduce((length, e) => length + e.insert.length - (e.to - e.from), doc.length) === text.length &&
        lastEdits.every((e) => e.to <= doc.length);
      view.dispatch({
        changes: fits
          ? lastEdits.map(({ from, to, insert }) => ({ from, to, insert }))
          : { from: 0, to: doc.length, insert: text },
        annotations: fromDocument.of(true),
      });
      // Edits that do not lead to the text would be a fault elsewhere; the text is right in any case.
      if (view.state.doc.toString() !== text)
        view.dispatch({
          changes: { from: 0, to: view.state.doc.length, insert: text },
          annotations: fromDocument.of(true),
        });
    }
    view.dispatch(
      showTree(derived),
      showTools(derived, open),
      showMargin(derived, host),
      showValues(derived, openValue),
      showSettings(derived, score.sources),
    );
    showDiagnostics(view, derived.diagnostics, document);
    choose();
  };
  // A step that was selected before, by the address, has the cursor.
  const { program: opened } = document.getState().derived;
  const first = opened.steps[selectedIn(opened, selection.getState()) ?? -1];
  if (first) view.dispatch({ selection: { anchor: first.nameSpan.to }, scrollIntoView: true });
  show();
  const unsubscribe = document.subscribe((state, before) => {
    if (state.version !== before.version) show();
    else if (state.derived.diagnostics !== before.derived.diagnostics)
      showDiagnostics(view, state.derived.diagnostics, document);
  });
  // A step selected elsewhere takes the cursor with it.
  const follow = selection.subscribe((now, before) => {
    if (now.step === before.step) return;
    const { derived, text } = document.getState();
    const step = derived.program.steps[selectedIn(derived.program, now) ?? -1];
    const here = stepAt(derived, view.state.selection.main.head);
    if (!step || isSameStep(here, now.step) || view.state.doc.toString() !== text) return;
    view.dispatch({ selection: { anchor: step.nameSpan.to }, scrollIntoView: true });
  });
  const unsource = score.sources.subscribe((state, before) => {
    if (state.sources !== before.sources) view.dispatch(showSettings(document.getState().derived, score.sources));
  });
  const unprobe = followProbe(view, document, score.probed);
  const unperiod = followPeriods(view, document, score.checks);
  return () => {
    unsubscribe();
    unsource();
    unprobe();
    unperiod();
    follow();
    view.destroy();
  };
}
