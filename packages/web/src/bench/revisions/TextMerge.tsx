import { MergeView } from '@codemirror/merge';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';
import { scoreTheme } from '../score/score-theme.ts';

const look: Extension = [
  lineNumbers(),
  scoreTheme,
  EditorView.lineWrapping,
  EditorView.theme({
    '.cm-changedLine': { backgroundColor: `${tokens.select} !important` },
    '.cm-changedText': { background: 'none !important', boxShadow: `inset 0 -2px ${tokens.bone}` },
    '.cm-deletedChunk': { backgroundColor: tokens.select },
    '.cm-collapsedLines': { background: tokens.row, color: tokens.dim, '&:before, &:after': { content: '"..."' } },
  }),
];

/**
 * Two texts side by side, what differs marked. With `changed` the right one can be edited, and takes pieces of the left
 * by their arrows.
 */
export function TextMerge({
  left,
  right,
  labels,
  changed,
}: {
  readonly left: string;
  readonly right: string;
  readonly labels: readonly [string, string];
  readonly changed?: (text: string) => void;
}): ReactElement {
  const parent = useRef<HTMLDivElement>(null);
  const tell = useRef(changed);
  useEffect(() => {
    tell.current = changed;
  });
  const editable = changed !== undefined;
  useEffect(() => {
    if (!parent.current) return undefined;
    const fixed = [EditorState.readOnly.of(true), EditorView.editable.of(false)];
    const named = (label: string): Extension => EditorView.contentAttributes.of({ 'aria-label': label });
    const view = new MergeView({
      parent: parent.current,
      a: { doc: left, extensions: [look, fixed, named(labels[0])] },
      b: {
        doc: right,
        extensions: [
          look,
          named(labels[1]),
          editable
            ? EditorView.updateListener.of((update) => {
                if (update.docChanged) tell.current?.(update.state.doc.toString());
              })
            : fixed,
        ],
      },
      collapseUnchanged: { margin: 3, minSize: 6 },
      ...(editable ? { revertControls: 'a-to-b' as const } : {}),
    });
    return () => {
      view.destroy();
    };
    // The right text is where editing begins; what comes of it is told, not handed back.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [left, editable, labels[0], labels[1], ...(editable ? [] : [right])]);
  return (
    <Box sx={{ border: 1, borderColor: 'divider', flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ display: 'flex', borderBottom: 1, borderColor: 'divider', color: 'text.secondary' }}>
        {labels.map((label) => (
          <Box key={label} sx={{ flex: 1, px: 1, py: 0.25 }}>
            {label}
          </Box>
        ))}
      </Box>
      <Box ref={parent} sx={{ flex: 1, minHeight: 0, overflow: 'auto', '& .cm-mergeView': { minHeight: '100%' } }} />
    </Box>
  );
}
