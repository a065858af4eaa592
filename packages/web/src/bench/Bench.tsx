import { Box, Button } from '@mui/material';
import { lazy, Suspense, useEffect, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { ErrorBoundary } from '../app/ErrorBoundary.tsx';
import { Notice } from '../app/Page.tsx';
import { BenchBar } from './BenchBar.tsx';
import { Findings } from './checks/Findings.tsx';
import { LoopDeck } from './deck/LoopDeck.tsx';
import { Dials } from './dials/Dials.tsx';
import { ScorePanel } from './panel/ScorePanel.tsx';
import { useSession } from './session.ts';
import { Stage } from './stage/Stage.tsx';
import { useBenchKeys } from './use-bench-keys.ts';

const ScoreEditor = lazy(async () => ({ default: (await import('./score/ScoreEditor.tsx')).ScoreEditor }));

/** The main screen: Score at the left, Stage over Dials at the right, the Loop deck below. */
export function Bench(): ReactElement {
  const { document, saver, clock, sources, restored } = useSession();
  const seconds = useStore(document, (s) => s.derived.program.loop.seconds);
  const fps = useStore(document, (s) => s.derived.program.loop.fps);
  const title = useStore(document, (s) => s.derived.program.title);
  const [notice, setNotice] = useState(restored);

  useEffect(() => saver.watch(), [saver]);
  useEffect(() => sources.watch(), [sources]);
  useEffect(() => {
    clock.setLoop(seconds, fps);
  }, [clock, seconds, fps]);
  useEffect(() => {
    window.document.title = `${title || 'Untitled'} - Estela`;
    return () => {
      window.document.title = 'Estela';
    };
  }, [title]);
  useBenchKeys();

  return (
    <>
      <BenchBar />
      {notice && (
        <Box
          role="status"
          sx={{ display: 'flex', alignItems: 'center', gap: 2, px: 1.5, py: 0.5, bgcolor: 'action.selected', borderBottom: 1, borderColor: 'divider' }}
        >
          Text that was typed here but not saved has been brought back. Undo leads to what was saved.
          <Button
            onClick={() => {
              setNotice(false);
            }}
          >
            Close
          </Button>
        </Box>
      )}
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'grid', gridTemplateColumns: 'minmax(420px, 43%) 1fr' }}>
        <Box
          component="section"
          aria-label="Score"
          sx={{ minHeight: 0, minWidth: 0, display: 'flex', flexDirection: 'column', borderRight: 1, borderColor: 'divider' }}
        >
          <ErrorBoundary part="Score">
            <Suspense fallback={<Notice busy title="Opening the Score" />}>
              <ScoreEditor />
            </Suspense>
          </ErrorBoundary>
          <ScorePanel />
          <Findings />
        </Box>
        <Box sx={{ minHeight: 0, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
          <ErrorBoundary part="Stage">
            <Stage />
          </ErrorBoundary>
          <ErrorBoundary part="Dials panel">
            <Dials />
          </ErrorBoundary>
        </Box>
      </Box>
      <LoopDeck />
    </>
  );
}
