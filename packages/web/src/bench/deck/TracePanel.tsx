import { TRACE_LOOPS } from '@estela/core';
import { Box, Button, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { useEffect, useRef, useState, type PointerEvent, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { material } from '../../workers/material.ts';
import { useDrawn } from '../../viewport/use-drawn.ts';
import { useSession } from '../session.ts';
import { FrameStrip } from './FrameStrip.tsx';

const COLUMNS = 240;
const ROWS = 96;

/** What is looked at beside the lanes: a line of the picture against time, or the frames around the loop point. */
export function TracePanel(): ReactElement {
  const { trace, debounced } = useSession();
  const [shows, setShows] = useState<'trace' | 'frames'>('trace');
  const line = useStore(trace, (s) => s.line);
  const placing = useStore(trace, (s) => s.placing);
  const off = useStore(debounced, (s) => s.look.glsl.outputs.length === 0);
  const upright = line.from[0] === line.to[0];
  const where = upright
    ? `column ${line.from[0].toFixed(2)}`
    : line.from[1] === line.to[1]
      ? `row ${line.from[1].toFixed(2)}`
      : 'a slanted line';
  return (
    <Box
      component="section"
      aria-label="Trace"
      sx={{
        flex: 'none',
        width: 300,
        display: 'flex',
        flexDirection: 'column',
        borderLeft: 1,
        borderColor: 'divider',
        minHeight: 0,
      }}
    >
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          height: 30,
          flex: 'none',
          pl: 0.5,
          pr: 0.5,
          gap: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
          '& .MuiToggleButton-root': { minHeight: 22, py: 0, px: 1 },
          '& .MuiButton-root': { minHeight: 22, py: 0, px: 0.75, fontSize: 12 },
        }}
      >
        <ToggleButtonGroup
          exclusive
          value={shows}
          aria-label="Beside the lanes"
          onChange={(_, next: 'trace' | 'frames' | null) => {
            if (next) setShows(next);
          }}
        >
          <ToggleButton
            value="trace"
            title={`${where}, over ${String(TRACE_LOOPS)} loops: motion is slope, a jump is a cut`}
          >
            Trace
          </ToggleButton>
          <ToggleButton value="frames" title="The frames around the loop point">
            Frames
          </ToggleButton>
        </ToggleButtonGroup>
        <Box sx={{ flex: 1 }} />
        {shows === 'trace' && (
          <>
            <Button
              title={upright ? 'Trace a row' : 'Trace a column'}
              onClick={() => {
                trace.setState({ line: upright ? { from: [0, 0.5], to: [1, 0.5] } : { from: [0.5, 0], to: [0.5, 1] } });
              }}
            >
              {where}
            </Button>
            <Button
              aria-pressed={placing}
              title="Set the line's position on the flat Stage"
              sx={{ bgcolor: placing ? tokens.raise : 'transparent' }}
              onClick={() => {
                trace.setState({ placing: !placing });
              }}
            >
              Set position
            </Button>
          </>
        )}
      </Box>
      {off ? (
        <Box sx={{ p: 1, color: 'text.secondary' }}>No output yet.</Box>
      ) : shows === 'trace' ? (
        <Trace />
      ) : (
        <FrameStrip />
      )}
    </Box>
  );
}

/** The line against time; hovering scrubs. */
function Trace(): ReactElement {
  const session = useSession();
  const { clock, trace, drawable } = session;
  const canvas = useRef<HTMLCanvasElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const resume = useRef(false);
  const line = useStore(trace, (s) => s.line);
  useDrawn(
    drawable,
    (subject) => material('draw').trace(subject, line, COLUMNS, ROWS),
    JSON.stringify(line),
    (data) => {
      canvas.current?.getContext('2d')?.putImageData(new ImageData(data, COLUMNS, ROWS), 0, 0);
      canvas.current?.setAttribute('data-drawn', 'true');
    },
  );
  useEffect(() => {
    const place = (): void => {
      const { time, seconds } = clock.getState();
      if (head.current) head.current.style.transform = `translateX(${String((time / seconds / TRACE_LOOPS) * 100)}%)`;
    };
    place();
    return clock.subscribe(place);
  }, [clock]);
  const scrub = (event: PointerEvent<HTMLElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 0.9999);
    clock.seek(share * TRACE_LOOPS * clock.getState().seconds);
  };
  return (
    <Box
      sx={{ position: 'relative', flex: 1, minHeight: 0, cursor: 'ew-resize', overflow: 'hidden' }}
      onPointerEnter={(event) => {
        resume.current = clock.getState().playing;
        clock.pause();
        scrub(event);
      }}
      onPointerMove={scrub}
      onPointerLeave={() => {
        if (resume.current) clock.play();
        resume.current = false;
      }}
    >
      <Box
        component="canvas"
        ref={canvas}
        width={COLUMNS}
        height={ROWS}
        role="img"
        aria-label="The line over time, for 1.25 loops"
        sx={{ position: 'absolute', width: '100%', height: '100%', display: 'block' }}
      />
      <Box
        title="The loop point"
        sx={{
          position: 'absolute',
          top: 0,
          bottom: 0,
          left: `${String(100 / TRACE_LOOPS)}%`,
          borderLeft: `1px dashed ${tokens.text}`,
          pointerEvents: 'none',
        }}
      >
        <Box
          component="span"
          sx={{
            position: 'absolute',
            left: 3,
            bottom: 1,
            fontSize: 11,
            whiteSpace: 'nowrap',
            color: tokens.text,
            bgcolor: `${tokens.pit}b0`,
            px: '3px',
          }}
        >
          loop
        </Box>
      </Box>
      <Box
        ref={head}
        aria-hidden="true"
        sx={{ position: 'absolute', inset: 0, borderLeft: `1px solid ${tokens.text}`, pointerEvents: 'none' }}
      />
    </Box>
  );
}
