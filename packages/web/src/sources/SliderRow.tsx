import { Box, Slider, Typography, type SliderProps } from '@mui/material';
import type { ReactElement } from 'react';
import { faces } from '../ui/tokens.ts';

/** A slider between its name and its value. */
export function SliderRow({
  label,
  value,
  digits,
  ...slider
}: Pick<SliderProps, 'color' | 'min' | 'max' | 'step' | 'disabled'> & {
  readonly label: string;
  readonly value: number;
  /** Decimals of the value that is shown. */
  readonly digits: number;
  readonly onChange: (event: Event, next: number) => void;
  readonly onChangeCommitted?: (event: unknown, next: number) => void;
}): ReactElement {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
      <Typography sx={{ width: 64, flex: 'none' }}>{label}</Typography>
      <Slider aria-label={label} value={value} {...slider} />
      <Typography sx={{ width: 36, fontFamily: faces.figures }}>{value.toFixed(digits)}</Typography>
    </Box>
  );
}
