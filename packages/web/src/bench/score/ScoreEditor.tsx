import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { useSession } from '../session.ts';
import { createScore } from './score.ts';

/** The Score: the text of the material, in one CodeMirror editor. */
export function ScoreEditor(): ReactElement {
  const { document, panel } = useSession();
  const parent = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      parent.current
        ? createScore(parent.current, document, (open) => {
            panel.setState({ open });
          })
        : undefined,
    [document, panel],
  );
  return <Box ref={parent} sx={{ flex: 1, minHeight: 0, overflow: 'hidden', '& .cm-editor': { height: '100%' } }} />;
}
