import { Box, IconButton, Typography } from '@mui/material';
import { lazy, Suspense, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { ErrorBoundary } from '../../ui/ErrorBoundary.tsx';
import { CloseIcon } from '../../ui/icons.tsx';
import { Notice } from '../../ui/Page.tsx';
import { useSession } from '../session.ts';

const RampPanel = lazy(async () => ({ default: (await import('./RampPanel.tsx')).RampPanel }));
const StepCard = lazy(async () => ({ default: (await import('../card/StepCard.tsx')).StepCard }));
const Probe = lazy(async () => ({ default: (await import('../probe/Probe.tsx')).Probe }));
const Checks = lazy(async () => ({ default: (await import('../checks/Checks.tsx')).Checks }));
const DissolvePanel = lazy(async () => ({ default: (await import('./DissolvePanel.tsx')).DissolvePanel }));

/** What was opened from a line of the text, below the Score: a ramp to be edited, a dissolve explained. */
export function ScorePanel(): ReactElement | null {
  const { panel } = useSession();
  const open = useStore(panel, (s) => s.open);
  if (!open) return null;
  const title = {
    ramp: `Ramp ${open.kind === 'ramp' ? open.name : ''}`,
    dissolve: 'The dissolve explained',
    step: 'Step',
    probe: 'Probe',
    checks: 'Checks',
  }[open.kind];
  return (
    <Box
      component="section"
      aria-label={title}
      sx={{ flex: 'none', maxHeight: '56%', overflow: 'auto', borderTop: 1, borderColor: 'divider' }}
    >
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          height: 32,
          pl: 1.5,
          pr: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
          position: 'sticky',
          top: 0,
          bgcolor: 'background.default',
          zIndex: 2,
        }}
      >
        <Typography variant="h2" sx={{ fontSize: 13, flex: 1 }}>
          {title}
        </Typography>
        <IconButton
          aria-label={`Close ${title}`}
          onClick={() => {
            panel.setState({ open: undefined });
          }}
        >
          <CloseIcon />
        </IconButton>
      </Box>
      <ErrorBoundary part="panel">
        <Suspense fallback={<Notice busy title="Opening" />}>
          {open.kind === 'ramp' && <RampPanel key={open.name} name={open.name} />}
          {open.kind === 'dissolve' && <DissolvePanel key={open.index} index={open.index} />}
          {open.kind === 'step' && <StepCard />}
          {open.kind === 'probe' && <Probe />}
          {open.kind === 'checks' && <Checks />}
        </Suspense>
      </ErrorBoundary>
    </Box>
  );
}
