import { Box, IconButton, MenuItem, Select } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { useStore } from 'zustand';
import { PauseIcon, PlayIcon, StepBackIcon, StepForwardIcon, ToStartIcon } from '../../ui/icons.tsx';
import { faces, tokens } from '../../ui/tokens.ts';
import { frameAt, SPEEDS } from '../../material/clock-store.ts';
import { useSession } from '../session.ts';

/** Minutes, seconds and tenths. */
function clockText(seconds: number): string {
  const tenths = Math.floor(seconds * 10 + 1e-6);
  const rest = tenths % 600;
  return `${String(Math.floor(tenths / 600))}:${String(Math.floor(rest / 10)).padStart(2, '0')}.${String(rest % 10)}`;
}

function Button({
  label,
  keys,
  amber,
  act,
  children,
}: {
  label: string;
  keys: string;
  amber?: boolean;
  act: () => void;
  children: ReactNode;
}): ReactElement {
  return (
    <IconButton
      aria-label={label}
      title={`${label} (${keys})`}
      sx={{ color: amber ? tokens.amber : 'text.primary' }}
      onClick={act}
    >
      {children}
    </IconButton>
  );
}

/** Plays, steps and slows time, and says which moment is shown. */
export function Transport(): ReactElement {
  const { clock } = useSession();
  const playing = useStore(clock, (s) => s.playing);
  const speed = useStore(clock, (s) => s.speed);
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'center', flex: 'none' }}>
        <Button label="To the start" keys="Home" act={() => clock.seek(0)}>
          <ToStartIcon />
        </Button>
        <Button label="One frame back" keys="," act={() => clock.step(-1)}>
          <StepBackIcon />
        </Button>
        <Button
          label={playing ? 'Pause' : 'Play'}
          keys="space"
          amber={playing}
          act={() => (playing ? clock.pause() : clock.play())}
        >
          {playing ? <PauseIcon /> : <PlayIcon />}
        </Button>
        <Button label="One frame on" keys="." act={() => clock.step(1)}>
          <StepForwardIcon />
        </Button>
      </Box>
      <Select
        value={speed}
        onChange={(event) => clock.setSpeed(event.target.value)}
        inputProps={{ 'aria-label': 'Playback speed' }}
        title="Playback speed ([ and ])"
        variant="outlined"
        sx={{
          flex: 'none',
          height: 26,
          fontSize: 12.5,
          fontFamily: faces.figures,
          color: speed === 1 ? 'text.secondary' : tokens.amber,
          '& .MuiSelect-select': { pl: 1, py: 0 },
        }}
      >
        {SPEEDS.map((s) => (
          <MenuItem key={s} value={s}>
            {s}x
          </MenuItem>
        ))}
      </Select>
      <Readout />
    </>
  );
}

function Readout(): ReactElement {
  const { clock } = useSession();
  // Tenths and frames, so that React is not asked for more than is read.
  const now = useStore(clock, (s) => clockText(s.time));
  const frame = useStore(clock, frameAt);
  const seconds = useStore(clock, (s) => s.seconds);
  const count = useStore(clock, (s) => Math.round(s.seconds * s.fps));
  return (
    <Box
      aria-label="Time in the loop"
      role="group"
      sx={{ fontFamily: faces.figures, whiteSpace: 'pre', flex: 'none', fontSize: 12.5 }}
    >
      {now} / {clockText(seconds)}
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {`  frame ${String(frame).padStart(String(count).length)}/${String(count)}`}
      </Box>
    </Box>
  );
}
