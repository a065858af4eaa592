import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import { JumpMeter } from './JumpMeter.tsx';
import { Lanes } from './Lanes.tsx';
import { TracePanel } from './TracePanel.tsx';

/** Lanes, Trace and jump, side by side. */
export function DeckBody(): ReactElement {
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Lanes />
      <TracePanel />
      <JumpMeter />
    </Box>
  );
}
