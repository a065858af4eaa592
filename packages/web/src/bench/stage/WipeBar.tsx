import { Box, Button } from '@mui/material';
import { useRef, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { partsOn, useDrag } from '../../ui/use-drag.ts';
import { useSession } from '../session.ts';

const label = {
  position: 'absolute',
  bottom: 8,
  px: 1,
  py: 0.25,
  bgcolor: tokens.floor,
  border: 1,
  borderColor: 'divider',
  borderRadius: '3px',
  pointerEvents: 'none',
} as const;

/** The line between two looks that are compared, and what stands on either side of it. */
export function WipeBar(): ReactElement | null {
  const { shown } = useSession();
  const beside = useStore(shown, (s) => s.beside);
  const wipe = useStore(shown, (s) => s.wipe);
  const variant = useStore(shown, (s) => s.variant);
  const linked = useStore(shown, (s) => s.linked);
  const area = useRef<HTMLDivElement>(null);
  const move = (to: number): void => {
    shown.setState({ wipe: Math.min(Math.max(to, 0.02), 0.98) });
  };
  const drag = useDrag({
    move: (at) => {
      if (area.current) move(partsOn(area.current, at)[0]);
    },
  });
  if (!beside) return null;
  const right =
    beside.kind === 'revision'
      ? `Revision ${String(beside.number)}`
      : beside.kind === 'flipbook'
        ? beside.label
        : (beside.name ?? 'Base');
  return (
    <Box ref={area} sx={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
      <Box sx={{ ...label, right: `calc(${String((1 - wipe) * 100)}% + 8px)` }}>
        {variant ?? (beside.kind === 'revision' ? 'Now' : beside.kind === 'flipbook' ? 'Live' : 'Base')}
      </Box>
      <Box sx={{ ...label, left: `calc(${String(wipe * 100)}% + 8px)`, whiteSpace: 'nowrap' }}>
        {right}
        {linked.size > 0 && ` with the left side's ${[...linked].join(', ')}`}
      </Box>
      <Box
        role="slider"
        tabIndex={0}
        aria-label="Divider between the two"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(wipe * 100)}
        onKeyDown={(event) => {
          const to = { ArrowLeft: wipe - 0.02, ArrowRight: wipe + 0.02, Home: 0, End: 1 }[event.key];
          if (to === undefined) return;
          event.preventDefault();
          move(to);
        }}
        {...drag()}
        sx={{
          position: 'absolute',
          top: 0,
          bottom: 0,
          left: `${String(wipe * 100)}%`,
          width: 13,
          ml: '-6px',
          cursor: 'ew-resize',
          touchAction: 'none',
          pointerEvents: 'auto',
          '&::after': {
            content: '""',
            position: 'absolute',
            top: 0,
            bottom: 0,
            left: 6,
            width: '1px',
            bgcolor: tokens.text,
          },
        }}
      />
      <Button
        variant="outlined"
        onClick={() => {
          shown.setState({ beside: undefined, linked: new Set() });
        }}
        sx={{ position: 'absolute', right: 8, top: 8, pointerEvents: 'auto' }}
      >
        Stop comparing
      </Button>
    </Box>
  );
}
