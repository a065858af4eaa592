import type { Finding, Movement } from '@estela/core';
import { Box, Button, ButtonBase, Slider, Typography } from '@mui/material';
import { memo, useEffect, useRef, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { applyFound } from '../checks/apply-fix.ts';
import { frameAt } from '../../material/clock-store.ts';
import { useSession } from '../session.ts';
import { useSize } from '../../ui/use-size.ts';
import { LANE_HEIGHT, LANE_WIDTH, laneEnds, lanePath, periodText, tickStep } from './lane-shape.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { useSelectedIndex } from '../selection.ts';

const NAME = 128;
const FIXES = 300;
const ROW = 28;

/** A ruler of the loop, and under it one lane for each motion of each step. */
export function Lanes(): ReactElement {
  const { checks, debounced } = useSession();
  const report = useStore(checks, (s) => s.report);
  const errors = useStore(debounced, (s) => !s.derived.ok);
  const count = useStore(debounced, (s) => s.derived.program.steps.length);
  // Lanes of an older text stay until those of the new one are known, so that nothing jumps.
  const findings = useStore(checks, (s) => s.findings);
  const list = report?.movements.filter((m) => m.step < count) ?? [];
  return (
    <Box
      component="section"
      aria-label="Lanes"
      sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column', overflow: 'hidden' }}
    >
      <Ruler />
      <Box sx={{ position: 'relative', flex: 1, minHeight: 0, overflowY: 'auto', overflowX: 'hidden' }}>
        <Playhead />
        {list.map((m, i) => (
          <Lane key={`${String(m.step)}:${String(i)}`} movement={m} findings={findings} />
        ))}
        {list.length === 0 && (
          <Typography sx={{ px: 1.5, py: 0.75, color: 'text.secondary' }}>
            {errors && !report
              ? 'The material has errors. Fix them to see its motion.'
              : report
                ? 'No motion yet: pan, spin, wave and evolving noise get a lane here.'
                : 'Looking for motion ...'}
          </Typography>
        )}
      </Box>
    </Box>
  );
}

const CODES = new Set(['loop-open', 'loop-unproven', 'scrolls-past-edge']);

/** The fixes of the finding that a motion is to blame in. */
function fixesFor(m: Movement, findings: readonly Finding[]): Finding | undefined {
  return m.state === 'closes' || m.state === 'later'
    ? undefined
    : findings.find((f) => CODES.has(f.code) && f.from >= m.from && f.to <= m.to);
}

/** Nothing of it follows the text but what it says: keys are not held up by lanes. */
const Lane = memo(function Lane({
  movement,
  findings,
}: {
  readonly movement: Movement;
  readonly findings: readonly Finding[];
}): ReactElement {
  const session = useSession();
  const { selection, debounced } = session;
  const name = useStore(debounced, (s) => {
    const step = s.derived.program.steps[movement.step];
    return step?.kind === 'out' ? `out ${step.name}` : (step?.name ?? '');
  });
  const seconds = useStore(debounced, (s) => s.derived.program.loop.seconds);
  const selected = useSelectedIndex() === movement.step;
  const open = movement.state === 'open';
  const ink = open ? tokens.coral : tokens.amber;
  const finding = fixesFor(movement, findings);
  const { start, end } = laneEnds(movement);
  const says = {
    open: 'does not close',
    unproven: 'not proven to close',
    later: 'repeats after more than a loop, but its result loops',
    closes: 'closes',
  }[movement.state];
  return (
    <Box
      role="group"
      aria-label={`Lane of ${name}, ${movement.kind}: ${periodText(movement, seconds)}, ${says}`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        height: ROW,
        borderBottom: 1,
        borderColor: tokens.row,
        bgcolor: selected ? tokens.select : 'transparent',
      }}
    >
      <ButtonBase
        aria-label={`Select ${name}`}
        onClick={() => {
          selection.setState({ step: stepRefOf(debounced.getState().derived.program, movement.step) });
        }}
        sx={{
          width: NAME,
          flex: 'none',
          height: '100%',
          pl: 1.5,
          justifyContent: 'flex-start',
          gap: 0.75,
          font: 'inherit',
          color: open ? tokens.coral : 'text.primary',
          overflow: 'hidden',
        }}
      >
        <span>{name}</span>
        <Box component="span" sx={{ color: selected ? tokens.bone : 'text.secondary', fontSize: 12 }}>
          {movement.kind}
        </Box>
      </ButtonBase>
      <Box sx={{ position: 'relative', flex: 1, height: ROW - 9, mr: '14px' }}>
        {movement.curve.length > 0 && (
          <svg
            viewBox={`0 0 ${String(LANE_WIDTH)} ${String(LANE_HEIGHT)}`}
            preserveAspectRatio="none"
            width="100%"
            height="100%"
            style={{ display: 'block', overflow: 'visible' }}
            aria-hidden="true"
          >
            <path
              d={lanePath(movement)}
              fill="none"
              stroke={ink}
              strokeWidth="1.5"
              vectorEffect="non-scaling-stroke"
              strokeDasharray={movement.state === 'unproven' ? '5 4' : undefined}
            />
          </svg>
        )}
        <EndMark open={open} start={start} end={end} />
      </Box>
      <Box
        sx={{ width: FIXES, flex: 'none', display: 'flex', alignItems: 'center', gap: 0.75, pr: 1, overflow: 'hidden' }}
      >
        <Box component="span" sx={{ color: ink, fontSize: 12.5, whiteSpace: 'nowrap', minWidth: 84 }}>
          {periodText(movement, seconds)}
        </Box>
        {finding?.fixes.slice(0, 1).map((fix) => (
          <Button
            key={fix.title}
            variant="outlined"
            title={fix.title}
            onClick={() => applyFound(session, fix.edits)}
            sx={{
              ...small,
              borderColor: tokens.coral,
              color: tokens.coral,
              minWidth: 0,
              textOverflow: 'ellipsis',
              overflow: 'hidden',
              display: 'block',
            }}
          >
            {fix.title}
          </Button>
        ))}
        {finding && finding.fixes.length > 1 && (
          <Button
            sx={{ ...small, flex: 'none' }}
            onClick={() => {
              session.panel.setState({ open: { kind: 'checks' } });
            }}
          >
            {finding.fixes.length - 1} more
          </Button>
        )}
      </Box>
    </Box>
  );
});

const small = { minHeight: 20, py: 0, px: 0.75, fontSize: 12 } as const;

/** A dot where the lane meets its start again; where it does not, the gap between the two. */
function EndMark({
  open,
  start,
  end,
}: {
  readonly open: boolean;
  readonly start: number;
  readonly end: number;
}): ReactElement {
  const at = (v: number): string => `${String((1 - v) * 100)}%`;
  if (!open)
    return (
      <Box
        sx={{
          position: 'absolute',
          right: -3,
          top: at(end),
          width: 6,
          height: 6,
          mt: '-3px',
          borderRadius: '50%',
          bgcolor: tokens.amber,
        }}
      />
    );
  const [low, high] = [Math.min(start, end), Math.max(start, end)];
  return (
    <Box title="Does not close: the end differs from the start">
      <Box
        sx={{
          position: 'absolute',
          right: -8,
          top: at(high),
          height: `${String(Math.max(high - low, 0.1) * 100)}%`,
          borderLeft: `2px dotted ${tokens.coral}`,
        }}
      />
      <Box
        sx={{
          position: 'absolute',
          right: -11,
          top: at(start),
          width: 7,
          height: 7,
          mt: '-3px',
          border: `1.5px solid ${tokens.coral}`,
          bgcolor: tokens.floor,
        }}
      />
      <Box
        sx={{ position: 'absolute', right: -4, top: at(end), width: 2, height: 9, mt: '-4px', bgcolor: tokens.coral }}
      />
    </Box>
  );
}

/** The moment, over all lanes. */
function Playhead(): ReactElement {
  const { clock } = useSession();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = (): void => {
      const { time, seconds } = clock.getState();
      // Moved, not laid out anew: this comes with every frame.
      if (line.current) line.current.style.transform = `translateX(${String((time / seconds) * 100)}%)`;
    };
    place();
    return clock.subscribe(place);
  }, [clock]);
  return (
    <Box
      aria-hidden="true"
      sx={{
        position: 'absolute',
        top: 0,
        bottom: 0,
        left: NAME,
        right: FIXES + 14,
        pointerEvents: 'none',
        zIndex: 1,
        overflow: 'hidden',
      }}
    >
      <Box ref={line} sx={{ position: 'absolute', inset: 0, borderLeft: `1px solid ${tokens.text}` }} />
    </Box>
  );
}

/** Seconds and frames over the lanes, and the hand that scrubs. */
function Ruler(): ReactElement {
  return (
    <Box sx={{ flex: 'none', display: 'flex', height: 30, borderBottom: 1, borderColor: 'divider' }}>
      <Typography sx={{ width: NAME, flex: 'none', pl: 1.5, pt: '4px', color: 'text.secondary', fontSize: 12 }}>
        seconds, frames
      </Typography>
      <Box sx={{ position: 'relative', flex: 1, mr: '14px' }}>
        <Ticks />
        <Scrubber />
      </Box>
      <Box sx={{ width: FIXES, flex: 'none', pt: '4px', color: 'text.secondary', fontSize: 12 }}>period</Box>
    </Box>
  );
}

const label = (at: number): string => `${String(Number(at.toPrecision(4)))} s`;

/** Width that a label needs, in CSS pixels. */
const TICK_ROOM = 72;

function Ticks(): ReactElement {
  const { clock } = useSession();
  const fps = useStore(clock, (s) => s.fps);
  const seconds = useStore(clock, (s) => s.seconds);
  const { area, size } = useSize<HTMLDivElement>();
  const step = tickStep(seconds, Math.min(Math.max(size[0] / TICK_ROOM, 1), 8));
  const marks = Array.from({ length: Math.floor(seconds / step + 1e-9) + 1 }, (_, i) => i * step);
  return (
    <Box
      ref={area}
      aria-hidden="true"
      sx={{
        position: 'absolute',
        inset: 0,
        overflow: 'hidden',
        fontFamily: faces.figures,
        fontSize: 10.5,
        color: 'text.secondary',
        pointerEvents: 'none',
      }}
    >
      {marks.map((at) => (
        <Box
          key={at}
          sx={{
            position: 'absolute',
            left: `${String((at / seconds) * 100)}%`,
            top: 0,
            bottom: 0,
            borderLeft: `1px solid ${tokens.line}`,
            pl: '3px',
            whiteSpace: 'nowrap',
          }}
        >
          {at < seconds - step / 2 && `${label(at)} ${String(Math.round(at * fps))}`}
        </Box>
      ))}
    </Box>
  );
}

const SCRUBBER = {
  position: 'absolute',
  left: 0,
  right: 0,
  bottom: 0,
  p: '16px 0 0',
  height: 14,
  '& .MuiSlider-thumb': { width: 9, height: 12, top: 22, transition: 'none' },
  '& .MuiSlider-rail': { top: 24, height: 2, opacity: 0 },
} as const;

/** Scrubs through the loop. While the hand is on it, time stands still. */
function Scrubber(): ReactElement {
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
      max={Math.max(count, 1)}
      step={1}
      value={frame}
      track={false}
      getAriaValueText={(value) => `frame ${String(value)} of ${String(count)}`}
      onPointerDown={() => {
        resume.current = clock.getState().playing;
        clock.pause();
      }}
      onChange={(_, value) => {
        clock.seek(Math.min(value, count - 1) / fps);
      }}
      onChangeCommitted={() => {
        if (resume.current) clock.play();
        resume.current = false;
      }}
      sx={SCRUBBER}
    />
  );
}
