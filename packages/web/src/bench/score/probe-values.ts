import { linesOf } from '@estela/core';
import { type Extension, type Range } from '@codemirror/state';
import type { EditorView } from '@codemirror/view';
import { Decoration, WidgetType } from '@codemirror/view';
import type { StoreApi } from 'zustand/vanilla';
import type { DocumentStore } from '../document-store.ts';
import { valueText } from '../probe/probe-player.ts';
import type { ProbedState } from '../session.ts';
import { decorationsField } from './decorations.ts';

const { field: values, set: setValues } = decorationsField();

class Value extends WidgetType {
  constructor(readonly text: string) {
    super();
  }
  override eq(other: Value): boolean {
    return other.text === this.text;
  }
  override updateDOM(dom: HTMLElement): boolean {
    dom.textContent = this.text;
    return true;
  }
  toDOM(): HTMLElement {
    const span = document.createElement('span');
    span.className = 'cm-values';
    span.textContent = this.text;
    return span;
  }
}

/** Shows what each step is worth at the probed pixel, behind its line, while the probe is open. */
export const probeValues: Extension = values;

export function followProbe(view: EditorView, document: DocumentStore, probed: StoreApi<ProbedState>): () => void {
  let shown = false;
  return probed.subscribe((state, before) => {
    if (state.values === before.values) return;
    const { text, derived } = document.getState();
    if ((!state.values && !shown) || view.state.doc.toString() !== text) return;
    const ranges: Range<Decoration>[] = [];
    derived.program.steps.forEach((step, i) => {
      const value = state.values?.[i];
      if (!value || step.off || step.type === 'unknown') return;
      ranges.push(
        Decoration.widget({ widget: new Value(valueText(step.type, value)), side: 2 }).range(
          linesOf(text, step.span).to,
        ),
      );
    });
    shown = ranges.length > 0;
    view.dispatch({ effects: setValues.of(Decoration.set(ranges, true)) });
  });
}
