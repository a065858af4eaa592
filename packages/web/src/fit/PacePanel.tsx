import { isEmpty, LOOP_LIMIT, repaceUvs, partOf, speedThrough, type Axis } from '@estela/core';
import { Box, Button, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMemo, useState, type KeyboardEvent, type ReactElement } from 'react';
import { Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { useStore } from 'zustand';
import { tokens } from '../ui/tokens.ts';
import { pixelsOn, useDrag } from '../ui/use-drag.ts';
import { useSize } from '../ui/use-size.ts';
import type { Change, Fit } from './fit-store.ts';
import { measuredPace, pointsOf, POINTS, unitOf } from './pace-curve.ts';

const LEFT = 44;
const RIGHT = 16;
const TOP = 10;
const FOOT = 24;
/** Slowest and fastest relative speeds that a point can be dragged to. */
const LEAST = 0.1;
const MOST = 10;

/**
 * Speed along the way on the surface: its points are dragged, and rows spread or gather so that the same scroll runs
 * faster or slower there.
 */
export function PacePanel({ fit }: { readonly fit: Fit }): ReactElement {
  const { mesh, selected } = useStore(fit.kept, (s) => s.value);
  const [axis, setAxis] = useState<Axis>('u');
  const [loops, setLoops] = useState('15');
  const part = useMemo(() => partOf(mesh, selected), [mesh, selected]);
  const measured = useMemo(
    () => (isEmpty(selected) ? undefined : measuredPace(mesh, part, axis)),
    [mesh, part, axis, selected],
  );
  const [dragged, setDragged] = useState<{
    readonly points: readonly number[];
    readonly unit: number;
    readonly top: number;
  }>();
  const resting = useMemo(() => (measured ? pointsOf(measured) : []), [measured]);
  const points = dragged?.points ?? resting;
  const unit = measured ? unitOf(measured, points) : 1;
  const fastest = Math.max(...(measured?.series.map((s) => s.speed) ?? [1]), ...points.map((p) => p * unit));
  // The scale stays while a point is dragged, so that it does not run away under the hand.
  const top = dragged?.top ?? niceTop(fastest);
  const { area, size } = useSize<HTMLDivElement>();
  const [width, height] = [Math.max(size[0] - LEFT - RIGHT, 1), Math.max(size[1] - TOP - FOOT, 1)];

  /** Spreads rows so that the pace goes through points. */
  const through =
    (next: readonly number[]): Change =>
    ({ mesh: of, selected: which }) =>
      repaceUvs(of, partOf(of, which), axis, speedThrough(next));
  const drag = useDrag<{ readonly unit: number; readonly top: number; points: readonly number[] }, [number]>({
    start: ({ event }) => {
      (event.currentTarget as HTMLElement).focus();
      return { unit, top, points };
    },
    move: (at, kept, index) => {
      if (!area.current) return;
      const speed = Math.max(((TOP + height - pixelsOn(area.current, at)[1]) / height) * kept.top, 0) / kept.unit;
      kept.points = kept.points.map((p, i) => (i === index ? Math.min(Math.max(speed, LEAST), MOST) : p));
      setDragged({ ...kept });
      fit.preview(through(kept.points));
    },
    end: () => {
      setDragged(undefined);
      fit.commit('pace');
    },
  });
  const key = (index: number) => (event: KeyboardEvent) => {
    const by = { ArrowUp: 1.1, ArrowDown: 1 / 1.1, PageUp: 1.5, PageDown: 1 / 1.5 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    // Of what is measured once it is done: another may be waited for.
    fit.change('pace', (value) => {
      const found = measuredPace(value.mesh, partOf(value.mesh, value.selected), axis);
      const before = found ? pointsOf(found) : [];
      return through(before.map((p, i) => (i === index ? Math.min(Math.max(p * by, LEAST), MOST) : p)))(value);
    });
  };
  const count = Number(loops);
  const known = Number.isInteger(count) && count >= 1 && count <= LOOP_LIMIT;
  return (
    <Box
      component="section"
      aria-label="Pace"
      sx={{ height: 210, flex: 'none', borderTop: 1, borderColor: 'divider', display: 'flex', flexDirection: 'column' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, height: 36, flex: 'none' }}>
        <Typography sx={{ fontWeight: 500 }}>Pace</Typography>
        <ToggleButtonGroup
          exclusive
          value={axis}
          aria-label="Scroll axis"
          onChange={(_, next: Axis | null) => {
            if (next) setAxis(next);
          }}
        >
          <ToggleButton value="u">along u</ToggleButton>
          <ToggleButton value="v">along v</ToggleButton>
        </ToggleButtonGroup>
        <Button
          title="The same speed everywhere"
          disabled={!measured}
          onClick={() => {
            fit.change('even pace', through(Array.from({ length: POINTS }, () => 1)));
          }}
        >
          Even
        </Button>
        <Box sx={{ width: '1px', height: 18, bgcolor: 'divider' }} />
        <TextField
          value={loops}
          onChange={(event) => {
            setLoops(event.target.value);
          }}
          error={!known}
          slotProps={{ htmlInput: { 'aria-label': 'Edge loops to add', inputMode: 'numeric' } }}
          sx={{ width: 52 }}
        />
        <Button
          title="Adds edge loops so the speed follows the curve and the picture bends less"
          disabled={!measured || !known}
          onClick={() => {
            void fit.refit(count === 1 ? 'add an edge loop' : `add ${loops} edge loops`, {
              do: 'loops',
              across: axis,
              count,
            });
          }}
        >
          Add edge loops
        </Button>
        <Typography noWrap sx={{ color: 'text.secondary', ml: 'auto' }}>
          {measured
            ? 'Surface speed (m/s) at 1 UV/s, along the path. Drag the points.'
            : 'Select an island or faces to see how fast a scroll runs along them.'}
        </Typography>
      </Box>
      <Box ref={area} sx={{ position: 'relative', flex: 1, minHeight: 0 }}>
        {measured && size[0] > 0 && (
          <>
            <ResponsiveContainer width="100%" height="100%">
              <LineChart data={[...measured.series]} margin={{ left: 0, right: RIGHT, top: TOP, bottom: 0 }}>
                <XAxis
                  dataKey="arcLength"
                  type="number"
                  domain={[0, measured.length]}
                  ticks={[0, 0.25, 0.5, 0.75, 1].map((s) => s * measured.length)}
                  tickFormatter={(arcLength: number) => `${arcLength.toFixed(2)} m`}
                  height={FOOT}
                  stroke={tokens.dim}
                  tick={{ fill: tokens.dim, fontSize: 12 }}
                />
                <YAxis
                  type="number"
                  domain={[0, top]}
                  allowDataOverflow
                  width={LEFT}
                  ticks={[0, top / 2, top]}
                  tickFormatter={(s: number) => s.toFixed(top < 3 ? 2 : 1)}
                  stroke={tokens.dim}
                  tick={{ fill: tokens.dim, fontSize: 12 }}
                />
                <Line dataKey="speed" stroke={tokens.amber} strokeWidth={2} dot={false} isAnimationActive={false} />
              </LineChart>
            </ResponsiveContainer>
            {points.map((p, i) => (
              <Box
                key={i}
                role="slider"
                tabIndex={0}
                aria-label={`Speed at ${String(Math.round((i / (POINTS - 1)) * 100))} % of the path`}
                aria-valuemin={0}
                aria-valuemax={Number(top.toFixed(2))}
                aria-valuenow={Number((p * unit).toFixed(2))}
                aria-valuetext={`${(p * unit).toFixed(2)} m/s`}
                aria-orientation="vertical"
                {...drag(i)}
                onKeyDown={key(i)}
                sx={{
                  position: 'absolute',
                  left: LEFT + (i / (POINTS - 1)) * width,
                  top: TOP + height - Math.min((p * (dragged?.unit ?? unit)) / top, 1) * height,
                  width: 15,
                  height: 15,
                  m: '-7.5px',
                  borderRadius: '50%',
                  bgcolor: tokens.amber,
                  border: `3px solid ${tokens.pit}`,
                  cursor: 'ns-resize',
                  touchAction: 'none',
                }}
              />
            ))}
          </>
        )}
      </Box>
    </Box>
  );
}

/** A round number with some room above. */
function niceTop(most: number): number {
  const wanted = Math.max(most, 1e-6) * 1.35;
  const step = 10 ** Math.floor(Math.log10(wanted)) / 2;
  return Math.ceil(wanted / step) * step;
}
