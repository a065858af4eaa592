import { Box, Typography } from '@mui/material';
import { JUMP_LIMIT } from '@estela/core';
import { useMemo, type ReactElement } from 'react';
import { Bar, BarChart, ResponsiveContainer, YAxis, type BarShapeProps } from 'recharts';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';

/** Most bars that are drawn. */
const BARS = 64;

/**
 * Changes for as many bars as there is room for, the largest of those that share one; the last, from the last frame to
 * the first, has its own.
 */
function thinned(changes: readonly number[]): { readonly change: number }[] {
  const by = Math.max(1, Math.ceil((changes.length - 1) / (BARS - 1)));
  const bars = Array.from({ length: Math.ceil((changes.length - 1) / by) }, (_, i) => ({
    change: Math.max(...changes.slice(i * by, Math.min((i + 1) * by, changes.length - 1))),
  }));
  return [...bars, { change: changes.at(-1) ?? 0 }];
}

/** The change from the last frame to the first against the usual one, and the changes of all frames. */
export function JumpMeter(): ReactElement {
  const { checks, debounced } = useSession();
  const errors = useStore(debounced, (s) => !s.derived.ok);
  const jump = useStore(checks, (s) => s.report?.jump);
  const seen = jump && jump.ratio >= JUMP_LIMIT && !jump.usual;
  const data = useMemo(() => thinned(jump?.changes ?? []), [jump]);
  const last = data.length - 1;
  const words = !jump
    ? errors
      ? 'not measured: the material has errors'
      : 'measuring'
    : seen
      ? 'from last to first frame: visible pop'
      : jump.usual && jump.ratio >= JUMP_LIMIT
        ? 'from last to first frame: same as between other frames'
        : 'from last to first frame, relative to the usual change';
  return (
    <Box
      component="section"
      aria-label="Jump"
      sx={{
        flex: 'none',
        width: 150,
        px: 1,
        py: 0.5,
        borderLeft: 1,
        borderColor: 'divider',
        display: 'flex',
        flexDirection: 'column',
        minHeight: 0,
        overflow: 'hidden',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Typography sx={{ color: 'text.secondary' }}>Jump</Typography>
        <Box
          component="output"
          sx={{ fontFamily: faces.figures, fontSize: 20, color: seen ? tokens.coral : 'text.primary' }}
        >
          {jump
            ? `${jump.ratio >= 100 ? String(Math.round(jump.ratio)) : jump.ratio.toFixed(jump.ratio < 10 ? 2 : 1)}x`
            : errors
              ? ''
              : '...'}
        </Box>
      </Box>
      <Typography sx={{ color: 'text.secondary', fontSize: 12, lineHeight: '15px' }}>{words}</Typography>
      {jump && jump.changes.length > 1 && (
        <Box
          role="img"
          aria-label="Change from each frame to the next; the last bar is from the last to the first"
          sx={{ flex: 1, minHeight: 24, mt: 0.5 }}
        >
          <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 134, height: 40 }}>
            <BarChart
              accessibilityLayer={false}
              data={data}
              margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
              barCategoryGap={0}
            >
              <YAxis hide domain={[0, 'dataMax']} />
              <Bar
                dataKey="change"
                isAnimationActive={false}
                shape={({ x, y, width, height, index }: BarShapeProps) => (
                  <rect
                    x={x}
                    y={y}
                    width={width}
                    height={height}
                    fill={index === last ? (seen ? tokens.coral : tokens.text) : tokens.dim}
                  />
                )}
              />
            </BarChart>
          </ResponsiveContainer>
        </Box>
      )}
    </Box>
  );
}
