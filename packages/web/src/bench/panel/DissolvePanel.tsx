import { dissolvesOf, hexOfColor, invertMask, levelMask, levelOf } from '@estela/core';
import { Box, Button, Slider, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { Area, ComposedChart, Line, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { useStore } from 'zustand';
import { Notice } from '../../ui/Page.tsx';
import { faces, tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { useDissolve } from './use-dissolve.ts';

const percent = (share: number): string => `${String(Math.round(share * 100))}%`;

/**
 * Draws what a dissolve does to each mask value, now: how far the front has come, what shows of the base, and how much
 * of the surface that is.
 */
export function DissolvePanel({ index }: { readonly index: number }): ReactElement {
  const { document, debounced } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const dissolve = dissolvesOf(program)[index];
  const view = useDissolve(index);
  if (!dissolve)
    return <Typography sx={{ p: 1.5, color: 'text.secondary' }}>This dissolve is no longer in the text.</Typography>;
  if (!view) return <Notice busy title="Measuring the mask" />;
  const { curves, histogram, shares, settings, marked, varies } = view;
  const { text } = program.tree;
  const level = levelOf(text, dissolve.mask) ?? { low: 0, high: 1 };
  const rows = curves.mask.map((mask, i) => ({
    mask,
    age: curves.age[i],
    share: curves.share[i],
    count: histogram[Math.min(Math.floor(mask * histogram.length), histogram.length - 1)],
  }));
  const strip = curves.color.map(([r = 0, g = 0, b = 0, a = 0], i) => {
    // The front shows until the base has taken its place, and not before its age begins.
    const front = (curves.age[i] ?? 0) > 0 ? a * (1 - (curves.share[i] ?? 0)) : 0;
    return hexOfColor([r, g, b, front]);
  });
  const front = settings.progress * (1 + settings.edge);
  const figure = (value: string): ReactNode => (
    <Box component="span" sx={{ fontFamily: faces.figures, color: 'text.primary' }}>
      {value}
    </Box>
  );
  const now = (): { text: string; mask: typeof dissolve.mask } | undefined => {
    const { program: latest } = document.getState().derived;
    const found = dissolvesOf(latest)[index];
    return found && { text: latest.tree.text, mask: found.mask };
  };

  return (
    <Box sx={{ px: 1.5, py: 1 }}>
      <Typography sx={{ color: 'text.secondary' }}>
        {dissolve.step.name}: progress {figure(percent(settings.progress))}, the front stands at mask{' '}
        {figure(front.toFixed(2))}, edge {figure(settings.edge.toFixed(2))}
        {dissolve.hasFront && <> and core {figure(settings.core.toFixed(2))}</>}.
        {varies && ' These differ across the surface; their means are drawn.'}
      </Typography>
      <Box sx={{ height: 132, mt: 0.5 }} role="img" aria-label="Curves over the mask value">
        <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 500, height: 132 }}>
          <ComposedChart accessibilityLayer={false} data={rows} margin={{ top: 4, right: 8, bottom: 0, left: 0 }}>
            <XAxis
              dataKey="mask"
              type="number"
              domain={[0, 1]}
              ticks={[0, 0.25, 0.5, 0.75, 1]}
              tick={{ fill: tokens.dim, fontSize: 11 }}
              stroke={tokens.line}
              height={18}
            />
            <YAxis
              width={28}
              domain={[0, 1]}
              ticks={[0, 0.5, 1]}
              tick={{ fill: tokens.dim, fontSize: 11 }}
              stroke={tokens.line}
            />
            <Area
              type="step"
              dataKey="count"
              stroke="none"
              fill={tokens.dim}
              fillOpacity={0.35}
              isAnimationActive={false}
            />
            <Line
              type="linear"
              dataKey="age"
              stroke={tokens.amber}
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
            <Line
              type="linear"
              dataKey="share"
              stroke={tokens.bone}
              strokeWidth={2}
              strokeDasharray="5 3"
              dot={false}
              isAnimationActive={false}
            />
            {marked !== undefined && (
              <ReferenceLine
                x={marked}
                stroke={tokens.text}
                strokeWidth={1.5}
                label={{ value: marked.toFixed(2), fill: tokens.text, fontSize: 11, position: 'insideTopRight' }}
              />
            )}
          </ComposedChart>
        </ResponsiveContainer>
      </Box>
      {dissolve.ramp && (
        <Box
          role="img"
          aria-label="Colour of the front over the mask value"
          sx={{
            height: 12,
            ml: '28px',
            mr: 1,
            border: 1,
            borderColor: 'divider',
            background: `linear-gradient(90deg, ${strip.join(', ')}), ${tokens.pit}`,
          }}
        />
      )}
      <Box sx={{ display: 'flex', gap: 2, mt: 0.5, color: 'text.secondary', flexWrap: 'wrap' }}>
        <span>
          <Key color={tokens.dim} /> number of pixels with this mask value
        </span>
        <span>
          <Key color={tokens.amber} /> age of the front
        </span>
        <span>
          <Key color={tokens.bone} /> share of the base
        </span>
      </Box>
      <Typography role="status" aria-label="Shares of the surface" sx={{ my: 0.5 }}>
        hidden {figure(percent(shares.hidden))}, burning {figure(percent(shares.burning))}, shown{' '}
        {figure(percent(shares.shown))}
        <Box component="span" sx={{ color: 'text.secondary' }}>
          {marked === undefined
            ? '. Point at the flat Stage to mark a pixel.'
            : `. The mask at the pointer is ${marked.toFixed(2)}.`}
        </Box>
      </Typography>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
        <Button
          variant="outlined"
          onClick={() => {
            const found = now();
            if (found) document.edit(invertMask(found.text, found.mask));
          }}
        >
          Invert the mask
        </Button>
        <Typography sx={{ flex: 'none' }}>Levels</Typography>
        <Slider
          value={[level.low, level.high]}
          min={0}
          max={1}
          step={0.01}
          getAriaLabel={(i) => (i === 0 ? 'Mask value that becomes 0' : 'Mask value that becomes 1')}
          onChange={(_, next) => {
            const found = now();
            const [low = 0, high = 1] = next;
            if (!found || high - low < 0.02) return;
            if (!document.getState().dragging) document.setDragging(true);
            document.edit(levelMask(found.text, found.mask, low, high), 'drag levels');
          }}
          onChangeCommitted={() => {
            if (document.getState().dragging) document.setDragging(false);
          }}
          sx={{ width: 150 }}
        />
        <Typography sx={{ fontFamily: faces.figures, fontSize: 12.5, color: 'text.secondary', whiteSpace: 'nowrap' }}>
          {level.low.toFixed(2)} to {level.high.toFixed(2)}
        </Typography>
      </Box>
    </Box>
  );
}

function Key({ color }: { readonly color: string }): ReactElement {
  return (
    <Box
      component="span"
      aria-hidden="true"
      sx={{ display: 'inline-block', width: 12, height: 3, verticalAlign: 'middle', mr: 0.5, bgcolor: color }}
    />
  );
}
