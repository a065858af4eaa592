import { Box, Typography } from '@mui/material';
import { lazy, Suspense, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { ErrorBoundary } from '../../ui/ErrorBoundary.tsx';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';

const Transport = lazy(async () => ({ default: (await import('./Transport.tsx')).Transport }));
const LoopLength = lazy(async () => ({ default: (await import('./LoopLength.tsx')).LoopLength }));
const DeckBody = lazy(async () => ({ default: (await import('./DeckBody.tsx')).DeckBody }));

/** Height of the deck's head. */
export const DECK_HEAD = 36;

/** Transport, the loop's length and verdict; below them lanes, Trace and jump. All but the verdict comes once the Bench has started. */
export function LoopDeck({ started }: { readonly started: boolean }): ReactElement {
  return (
    <Box
      component="section"
      aria-label="Loop deck"
      sx={{ flex: 1, minHeight: 0, minWidth: 800, display: 'flex', flexDirection: 'column' }}
    >
      <Box
        sx={{
          flex: 'none',
          display: 'flex',
          alignItems: 'center',
          gap: 1.5,
          height: DECK_HEAD,
          px: 1,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Suspense>
          {started && (
            <>
              <Transport />
              <LoopLength />
            </>
          )}
        </Suspense>
        <Box sx={{ flex: 1 }} />
        <LoopVerdict />
      </Box>
      <ErrorBoundary part="Loop deck">
        <Suspense>{started && <DeckBody />}</Suspense>
      </ErrorBoundary>
    </Box>
  );
}

/** Whether the loop closes, in a few words. */
function LoopVerdict(): ReactElement {
  const { checks, debounced, panel } = useSession();
  const report = useStore(checks, (s) => s.report);
  const errors = useStore(debounced, (s) => !s.derived.ok);
  if (errors || !report)
    return <Typography sx={{ color: 'text.secondary' }}>{errors ? 'the text has errors' : ''}</Typography>;
  const { loop } = report.verdicts.whole.verdicts;
  const steps = new Set(report.movements.filter((m) => m.state === 'open').map((m) => m.step)).size;
  const words = {
    always: 'Loops at every setting',
    present: 'Loops (these settings)',
    open: steps === 0 ? 'Loop broken' : `Loop broken in ${String(steps)} ${steps === 1 ? 'step' : 'steps'}`,
    unproven: report.stage === 'proof' ? 'Loop not proven' : 'Loop not proven, no break seen',
  }[loop];
  const why = report.because.map((r) => `line ${String(r.line)}: ${r.text}`).join('\n');
  return (
    <Box
      component="button"
      type="button"
      data-mark="verdict"
      aria-label={words}
      title={why || undefined}
      onClick={() => {
        panel.setState({ open: { kind: 'checks' } });
      }}
      sx={{
        border: 0,
        bgcolor: 'transparent',
        font: 'inherit',
        cursor: 'pointer',
        p: '4px 8px',
        whiteSpace: 'nowrap',
        color: loop === 'open' ? tokens.coral : loop === 'unproven' ? 'text.secondary' : tokens.amber,
      }}
    >
      {words}
    </Box>
  );
}
