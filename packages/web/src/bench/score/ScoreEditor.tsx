import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { useSession } from '../session.ts';
import { createScore } from './score.ts';
import { StepPlayer } from './step-player.ts';

/** The Score: the text of the material, in one CodeMirror editor. */
export function ScoreEditor(): ReactElement {
  const { document, panel, clock, sources, selection, value, cover, probed, checks } = useSession();
  const parent = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!parent.current) return undefined;
    const player = new StepPlayer(document, clock, sources);
    const close = createScore(parent.current, {
      document,
      player,
      selection,
      probed,
      checks,
      openPanel: (open) => {
        panel.setState({ open });
      },
      openValue: (at) => {
        value.setState({ at });
      },
      insert: () => {
        cover.setState({ open: 'palette' });
      },
    });
    return () => {
      close();
      player.dispose();
    };
  }, [document, panel, clock, sources, selection, value, cover, probed, checks]);
  return <Box ref={parent} sx={{ flex: 1, minHeight: 0, overflow: 'hidden', '& .cm-editor': { height: '100%' } }} />;
}
