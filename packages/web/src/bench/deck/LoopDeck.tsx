import { Box, IconButton, Slider, Tooltip, Typography } from '@mui/material';
import { useRef, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { PauseIcon, PlayIcon, StepBackIcon, StepForwardIcon, ToStartIcon } from '../../app/icons.tsx';
import { faces, tokens } from '../../app/tokens.ts';
import { frameAt } from '../clock-store.ts';
import { useSession } from '../session.ts';

/** Minutes, seconds and tenths. */
function clockText(seconds: number): string {
  const tenths = Math.floor(seconds * 10 + 1e-6);
  const rest = tenths % 600;
  return `${String(Math.floor(tenths / 600))}:${String(Math.floor(rest / 10)).padStart(2, '0')}.${String(rest % 10)}`;
}

/** Transport and ruler of the loop. */
export function LoopDeck(): ReactElement {
  const { clock } = useSession();
  const playing = useStore(clock, (s) => s.playing);
  const seconds = useStore(clock, (s) => s.seconds);
  const fps = useStore(clock, (s) => s.fps);
  const frames = Math.round(seconds * fps);
  return (
    <Box
      component="section"
      aria-label="Loop deck"
      sx={{ flex: 'none', display: 'flex', alignItems: 'center', gap: 2, height: 56, minWidth: 800, px: 1.5, borderTop: 1, borderColor: 'divider' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Tooltip title="To the start (Home)">
          <IconButton
            aria-label="To the start"
            onClick={() => {
              clock.seek(0);
            }}
          >
            <ToStartIcon />
          </IconButton>
        </Tooltip>
        <Tooltip title="One frame back (,)">
          <IconButton
            aria-label="One frame back"
            onClick={() => {
              clock.step(-1);
            }}
          >
            <StepBackIcon />
          </IconButton>
        </Tooltip>
        <Tooltip title={playing ? 'Pause (space)' : 'Play (space)'}>
          <IconButton
            aria-label={playing ? 'Pause' : 'Play'}
            sx={{ color: playing ? tokens.amber : 'text.primary' }}
            onClick={() => {
              if (playing) clock.pause();
              else clock.play();
            }}
          >
            {playing ? <PauseIcon /> : <PlayIcon />}
          </IconButton>
        </Tooltip>
        <Tooltip title="One frame on (.)">
          <IconButton
            aria-label="One frame on"
            onClick={() => {
              clock.step(1);
            }}
          >
            <StepForwardIcon />
          </IconButton>
        </Tooltip>
      </Box>
      <Readout />
      <Ruler />
      <Typography sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
        loop <Figure>{`${String(Number(seconds.toPrecision(6)))} s`}</Figure> at <Figure>{`${String(fps)} fps`}</Figure>, {frames} frames
      </Typography>
    </Box>
  );
}

function Figure({ children }: { readonly children: string }): ReactElement {
  return (
    <Box component="span" sx={{ color: 'text.primary', fontFamily: faces.figures }}>
      {children}
    </Box>
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
    <Box aria-label="Time in the loop" role="group" sx={{ fontFamily: faces.figures, whiteSpace: 'pre', minWidth: 260 }}>
      {now} / {clockText(seconds)}
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {`  frame ${String(frame).padStart(String(count).length)}/${String(count)}`}
      </Box>
    </Box>
  );
}

/** Scrubs through the loop. While the hand is on it, time stands still. */
function Ruler(): ReactElement {
  const { clock } = useSession();
  const frame = useStore(clock, frameAt);
  const fps = useStore(clock, (s) => s.fps);
  const count = useStore(clock, (s) => Math.round(s.seconds * s.fps));
  const resume = useRef(false);
  return (
    <Slider
      aria-label="Frame"
      color="secondary"
      min={0}
      max={Math.max(count - 1, 1)}
      step={1}
      value={frame}
      getAriaValueText={(value) => `frame ${String(value)} of ${String(count)}`}
      onPointerDown={() => {
        resume.current = clock.getState().playing;
        clock.pause();
      }}
      onChange={(_, value) => {
        clock.seek(value / fps);
      }}
      onChangeCommitted={() => {
        if (resume.current) clock.play();
        resume.current = false;
      }}
      sx={{ flex: 1, minWidth: 120 }}
    />
  );
}
