import { linesOf, type StepPeriod, lapsText } from '@estela/core';
import { type Extension, type Range } from '@codemirror/state';
import type { EditorView } from '@codemirror/view';
import { Decoration } from '@codemirror/view';
import type { StoreApi } from 'zustand/vanilla';
import type { ChecksState } from '../checks/checks-store.ts';
import type { DocumentStore } from '../document-store.ts';
import { decorationsField } from './decorations.ts';

const { field, set: setPeriods } = decorationsField();

/** How a step comes round, in a few words; nothing for one that stands still. */
export function periodWords(period: StepPeriod | undefined): string {
  if (!period || period.kind === 'still') return '';
  if (period.kind === 'laps') return lapsText(period.laps);
  if (period.kind === 'later') return period.loops ? `repeats after ${String(period.loops)} loops` : 'repeats later';
  return { open: 'does not close', unproven: 'not proven', moving: 'moves' }[period.kind];
}

/** Written by the theme, not into the text: whoever reads or copies the text reads the text. */
const periodLine = (words: string, open: boolean): Decoration =>
  Decoration.line({
    class: open ? 'cm-period cm-period-open' : 'cm-period',
    attributes: { 'data-period': words, style: `--period: ${String(words.length * 6 + 14)}px` },
  });

/** At the right of each moving step: after what part of the loop it has come round. */
export const stepPeriods: Extension = field;

export function followPeriods(view: EditorView, document: DocumentStore, checks: StoreApi<ChecksState>): () => void {
  const show = ({ report, text }: ChecksState): void => {
    const { derived } = document.getState();
    if (!report || text !== document.getState().text || view.state.doc.toString() !== text) return;
    const ranges: Range<Decoration>[] = [];
    derived.program.steps.forEach((step, i) => {
      const period = report.periods[i];
      const words = step.off ? '' : periodWords(period);
      if (words)
        ranges.push(
          periodLine(words, period?.kind === 'open').range(
            linesOf(text, { from: step.span.from, to: step.span.from }).from,
          ),
        );
    });
    view.dispatch({ effects: setPeriods.of(Decoration.set(ranges, true)) });
  };
  show(checks.getState());
  return checks.subscribe((state, before) => {
    if (state.report !== before.report) show(state);
  });
}
