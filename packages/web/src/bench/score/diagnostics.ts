import { diagnosticCount, setDiagnostics, type Diagnostic as Shown } from '@codemirror/lint';
import type { EditorView } from '@codemirror/view';
import type { Diagnostic } from '@estela/core';
import type { DocumentStore } from '../document-store.ts';

/** Underlines what was found where it is; its sentence and fixes come up on it. */
export function showDiagnostics(view: EditorView, list: readonly Diagnostic[], document: DocumentStore): void {
  // The usual case, while what is typed is right: there was nothing and there is nothing.
  if (list.length === 0 && diagnosticCount(view.state) === 0) return;
  const { length } = view.state.doc;
  const shown = list.map((d): Shown => {
    const from = Math.min(d.from, length);
    return {
      from,
      to: Math.min(Math.max(d.to, from), length),
      severity: d.severity === 'note' ? 'info' : d.severity,
      message: d.message,
      actions: d.fixes.map((fix) => ({
        name: fix.title,
        apply: () => {
          document.edit(fix.edits);
        },
      })),
    };
  });
  view.dispatch(setDiagnostics(view.state, shown));
}
