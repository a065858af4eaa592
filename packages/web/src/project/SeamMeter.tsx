import { SEAM_SEEN, type EdgeMeasure, type SeamMeasure } from '@estela/core';
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Area, AreaChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { faces, tokens } from '../ui/tokens.ts';

export const ratioText = (ratio: number): string => (ratio >= 999 ? 'over 999' : ratio.toFixed(ratio < 10 ? 2 : 0));
export const verdictOf = (ratio: number): string =>
  ratio < 1.5 ? 'tiles' : ratio < SEAM_SEEN ? 'nearly tiles' : 'has a seam';

/** The numbers of both edges, in a line. */
export function SeamNumbers({ seams }: { readonly seams: SeamMeasure }): ReactElement {
  const number = (words: string, { ratio }: EdgeMeasure): ReactElement => (
    <span>
      {words}{' '}
      <Box
        component="span"
        sx={{ fontFamily: faces.figures, color: ratio < SEAM_SEEN ? 'text.primary' : tokens.coral }}
      >
        {ratioText(ratio)}
      </Box>
    </span>
  );
  return (
    <Typography component="p" sx={{ color: 'text.secondary', display: 'flex', gap: 2 }}>
      {number('left and right', seams.u)}
      {number('top and bottom', seams.v)}
    </Typography>
  );
}

/** A profile as at most `most` bars, each the largest of what it stands for. */
function bars(profile: Float64Array, most = 128): { at: number; ratio: number }[] {
  const by = Math.max(1, Math.ceil(profile.length / most));
  return Array.from({ length: Math.ceil(profile.length / by) }, (_, i) => ({
    at: i * by,
    ratio: Math.max(...profile.subarray(i * by, (i + 1) * by)),
  }));
}

/** How an image meets itself: number, verdict and profile of both pairs of edges. */
export function SeamMeter({ seams }: { readonly seams: SeamMeasure }): ReactElement {
  return (
    <>
      <Edge title="Left and right edge" along="from top to bottom" measure={seams.u} />
      <Edge title="Top and bottom edge" along="from left to right" measure={seams.v} />
      <Typography variant="caption" component="p" sx={{ mt: 0.5 }}>
        Mean change across the edge, relative to the mean change between neighbouring pixels along the same axis. Change
        is the mean of the four channels&apos; differences as stored. About 1 tiles; {SEAM_SEEN} and above is visible.
      </Typography>
    </>
  );
}

function Edge({
  title,
  along,
  measure,
}: {
  readonly title: string;
  readonly along: string;
  readonly measure: EdgeMeasure;
}): ReactElement {
  const { ratio, profile, worst } = measure;
  const seen = ratio >= SEAM_SEEN;
  const ink = seen ? tokens.coral : tokens.bone;
  const data = bars(profile);
  return (
    <Box sx={{ mb: 1 }} role="group" aria-label={title}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Typography>{title}</Typography>
        <Typography sx={{ fontFamily: faces.figures, color: ink }}>{ratioText(ratio)}</Typography>
        <Typography sx={{ color: seen ? tokens.coral : 'text.secondary' }}>{verdictOf(ratio)}</Typography>
      </Box>
      <Box sx={{ height: 56 }} aria-hidden="true">
        <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 340, height: 56 }}>
          <AreaChart accessibilityLayer={false} data={data} margin={{ top: 2, right: 0, bottom: 0, left: 0 }}>
            <XAxis dataKey="at" type="number" domain={[0, 'dataMax']} hide />
            <YAxis
              width={30}
              tickCount={3}
              domain={[0, (most: number) => Math.max(2, Math.ceil(most))]}
              tick={{ fill: tokens.dim, fontSize: 11 }}
              axisLine={false}
              tickLine={false}
            />
            <ReferenceLine y={1} stroke={tokens.dim} strokeDasharray="3 3" />
            <ReferenceLine x={worst} stroke={seen ? tokens.coral : tokens.dim} />
            <Area
              type="stepAfter"
              dataKey="ratio"
              stroke={ink}
              fill={ink}
              fillOpacity={0.25}
              strokeWidth={1}
              isAnimationActive={false}
            />
          </AreaChart>
        </ResponsiveContainer>
      </Box>
      <Typography variant="caption" component="p">
        {along}; worst at pixel {worst}: {ratioText(profile[worst] ?? 1)}
      </Typography>
    </Box>
  );
}
