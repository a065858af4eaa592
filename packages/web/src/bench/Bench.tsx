import { Box } from '@mui/material';
import { lazy, Suspense, useEffect, useMemo, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { useTitle } from '../ui/title.ts';
import { ErrorBoundary } from '../ui/ErrorBoundary.tsx';
import { followKind } from '../project/followed.ts';
import { BroughtBack } from '../history/HistoryBar.tsx';
import { Notice } from '../ui/Page.tsx';
import { BenchBar } from './BenchBar.tsx';
import { OtherDrafts } from './OtherDrafts.tsx';
import { Findings } from './checks/Findings.tsx';
import { DECK_HEAD, LoopDeck } from './deck/LoopDeck.tsx';
import { BenchPanel } from './panel/BenchPanel.tsx';
import { ScoreHead } from './score/ScoreHead.tsx';
import { SaveTrouble } from './SaveTrouble.tsx';
import { Split } from '../ui/Split.tsx';
import { isFirstVisit } from './visits.ts';
import { WorkerTrouble } from './WorkerTrouble.tsx';
import { useLookedAtAddress } from './looked-at.ts';
import { useSession } from './session.ts';
import { Stage } from './stage/Stage.tsx';
import { takeIn } from './textures/place-texture.ts';
import { useStarted } from './use-started.ts';
import { useKeys } from '../ui/keys.ts';
import { benchKeys } from './keys.ts';

/** The demo project, in which a first visit is shown around. */
const DEMO = 'Glasshouse Nine';

const BakeWatch = lazy(async () => ({ default: (await import('./bake/BakeWatch.tsx')).BakeWatch }));
const FirstVisit = lazy(async () => ({ default: (await import('./FirstVisit.tsx')).FirstVisit }));
const Palette = lazy(async () => ({ default: (await import('./palette/Palette.tsx')).Palette }));
const KeyHelp = lazy(async () => ({ default: (await import('./KeyHelp.tsx')).KeyHelp }));
const Revisions = lazy(async () => ({ default: (await import('./revisions/Revisions.tsx')).Revisions }));
const ValuePopover = lazy(async () => ({ default: (await import('./values/ValuePopover.tsx')).ValuePopover }));
const ScoreEditor = lazy(async () => ({ default: (await import('./score/ScoreEditor.tsx')).ScoreEditor }));

/** The main screen: Score at the left, Stage over its panel of tabs at the right, the Loop deck below. */
export function Bench(): ReactElement {
  const session = useSession();
  const { saver, restored, debounced, project, material } = session;
  const title = useStore(debounced, (s) => s.derived.program.title);

  useEffect(() => saver.watch(), [saver]);
  useEffect(
    () =>
      followKind(
        project.id,
        'material',
        (id) => (id === material.id ? saver.getState().revision : Infinity),
        () => void saver.look(),
      ),
    [saver, project, material],
  );
  useEffect(() => session.checks.watch(), [session]);
  useTitle(title || 'Untitled');
  const cover = useStore(session.cover, (s) => s.open);
  useKeys(useMemo(() => benchKeys(session), [session]));
  useLookedAtAddress();

  useEffect(() => {
    const pasted = (event: ClipboardEvent): void => {
      const files = [...(event.clipboardData?.files ?? [])];
      const target = event.target as Element;
      // Tables come as text and as a picture of it: where one writes, text is meant.
      const isText =
        event.clipboardData?.getData('text/plain') !== '' &&
        target.matches('input, textarea, .cm-content *, .cm-content');
      // Not while something covers the Bench.
      if (files.length === 0 || isText || target.closest('[role=dialog]')) return;
      event.preventDefault();
      // The editor would take it for text.
      event.stopPropagation();
      takeIn(session, files);
    };
    window.addEventListener('paste', pasted, true);
    return () => {
      window.removeEventListener('paste', pasted, true);
    };
  }, [session]);

  const hasValue = useStore(session.value, (s) => s.at !== undefined);
  const { score, rest, scoreOpened } = useStarted();
  const [visiting] = useState(() => session.project.name === DEMO && isFirstVisit());
  const opening = <Notice busy title="Opening the Score" />;

  return (
    <>
      <BenchBar />
      <SaveTrouble />
      {restored && <BroughtBack />}
      <WorkerTrouble />
      <OtherDrafts />
      <Box component="main" sx={{ flex: '1 0 auto', minHeight: 560, height: 0, minWidth: 800, display: 'flex' }}>
        <Split
          id="deck"
          label="Height of the Loop deck"
          orientation="vertical"
          start="78%"
          least={[400, DECK_HEAD]}
          first={
            <Split
              id="bench"
              label="Width of the Score"
              orientation="horizontal"
              start="46%"
              least={[360, 420]}
              first={
                <Box
                  component="section"
                  aria-label="Score"
                  sx={{ flex: 1, minHeight: 0, minWidth: 0, display: 'flex', flexDirection: 'column' }}
                >
                  <ScoreHead />
                  <ErrorBoundary part="Score">
                    <Suspense fallback={opening}>{score ? <ScoreEditor opened={scoreOpened} /> : opening}</Suspense>
                  </ErrorBoundary>
                  <Findings />
                </Box>
              }
              second={
                <Split
                  id="stage"
                  label="Height of the Stage"
                  orientation="vertical"
                  start="60%"
                  least={[160, 96]}
                  first={
                    <ErrorBoundary part="Stage">
                      <Stage started={rest} />
                    </ErrorBoundary>
                  }
                  second={<ErrorBoundary part="panel">{rest && <BenchPanel />}</ErrorBoundary>}
                />
              }
            />
          }
          second={<LoopDeck started={rest} />}
        />
      </Box>
      <Suspense>
        {rest && <BakeWatch />}
        {rest && visiting && <FirstVisit />}
        {hasValue && <ValuePopover />}
        {cover === 'palette' && <Palette />}
        {cover === 'help' && <KeyHelp />}
        {cover === 'revisions' && <Revisions />}
      </Suspense>
    </>
  );
}
