import { closeBrackets, closeBracketsKeymap, completionKeymap } from '@codemirror/autocomplete';
import { defaultKeymap, indentWithTab } from '@codemirror/commands';
import { lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, searchKeymap } from '@codemirror/search';
import { Annotation, EditorState } from '@codemirror/state';
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { completion } from './completion.ts';
import { showDiagnostics } from './diagnostics.ts';
import { highlight, showTree } from './highlight.ts';
import { lineTools, showTools, type OpenPanel } from './line-tools.ts';
import { scoreTheme } from './score-theme.ts';
import { showMargin, stepMargin, type MarginHost } from './step-margin.ts';

/** Marks changes that come from the document, not from typing. */
const fromDocument = Annotation.define<true>();

/** An editor in `parent` that shows a document and writes into it; gives the function that takes it away. */
export function createScore(parent: HTMLElement, host: MarginHost, open: OpenPanel): () => void {
  const { document } = host;
  const view = new EditorView({
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
        completion(document),
        highlight,
        lineTools,
        scoreTheme,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': 'Text of the material', spellcheck: 'false' }),
        keymap.of([
          { key: 'Mod-z', run: () => document.undo(), preventDefault: true },
          { key: 'Mod-y', mac: 'Mod-Shift-z', run: () => document.redo(), preventDefault: true },
          { key: 'Mod-Shift-z', run: () => document.redo(), preventDefault: true },
          ...closeBracketsKeymap,
          ...completionKeymap,
          ...searchKeymap,
          ...lintKeymap,
          ...defaultKeymap,
          indentWithTab,
        ]),
        EditorView.updateListener.of((update) => {
          if (!update.docChanged || update.transactions.every((t) => t.annotation(fromDocument))) return;
          const edits: { from: number; to: number; insert: string }[] = [];
          update.changes.iterChanges((from, to, _start, _end, inserted) => {
            edits.push({ from, to, insert: inserted.toString() });
          });
          const typed = update.transactions.some((t) => t.isUserEvent('input.type') || t.isUserEvent('delete.backward'));
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
        lastEdits.reduce((length, e) => length + e.insert.length - (e.to - e.from), doc.length) === text.length && lastEdits.every((e) => e.to <= doc.length);
      view.dispatch({
        changes: fits ? lastEdits.map(({ from, to, insert }) => ({ from, to, insert })) : { from: 0, to: doc.length, insert: text },
        annotations: fromDocument.of(true),
      });
      // Edits that do not lead to the text would be a fault elsewhere; the text is right in any case.
      if (view.state.doc.toString() !== text)
        view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text }, annotations: fromDocument.of(true) });
    }
    view.dispatch(showTree(derived), showTools(derived, open), showMargin(derived, host));
    showDiagnostics(view, derived.diagnostics, document);
  };
  show();
  const unsubscribe = document.subscribe((state, before) => {
    if (state.version !== before.version) show();
  });
  return () => {
    unsubscribe();
    view.destroy();
  };
}
