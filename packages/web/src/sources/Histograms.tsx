import type { Histogram } from '@estela/core';
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Area, AreaChart, ResponsiveContainer, YAxis } from 'recharts';
import { faces, tokens } from '../ui/tokens.ts';

const NAMES = ['Red', 'Green', 'Blue', 'Alpha'] as const;
const share = (value: number): string => value.toFixed(2);

/**
 * The values of each channel, 0 at the left to 1 at the right; heights are square roots, so that rare values are seen
 * beside frequent ones.
 */
export function Histograms({ of }: { readonly of: readonly Histogram[] }): ReactElement {
  return (
    <>
      {of.map((histogram, c) => (
        <Box key={NAMES[c]} role="group" aria-label={`Histogram of ${NAMES[c] ?? ''}`} sx={{ mb: 0.75 }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
            <Typography>{NAMES[c]}</Typography>
            <Typography sx={{ fontFamily: faces.figures, fontSize: 12, color: 'text.secondary' }}>
              {histogram.low === histogram.high
                ? `all ${share(histogram.low)}`
                : `${share(histogram.low)} to ${share(histogram.high)}, mean ${share(histogram.mean)}`}
            </Typography>
          </Box>
          <Box sx={{ height: 36, bgcolor: tokens.pit }} aria-hidden="true">
            <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 340, height: 36 }}>
              <AreaChart
                accessibilityLayer={false}
                data={[...histogram.counts].map((n) => ({ n: Math.sqrt(n) }))}
                margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
              >
                <YAxis hide domain={[0, 'dataMax']} />
                <Area
                  type="step"
                  dataKey="n"
                  stroke={tokens.bone}
                  fill={tokens.bone}
                  fillOpacity={0.4}
                  strokeWidth={1}
                  isAnimationActive={false}
                />
              </AreaChart>
            </ResponsiveContainer>
          </Box>
        </Box>
      ))}
    </>
  );
}
