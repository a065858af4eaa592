import { colorOfHex, hexOfColor } from '@estela/core';
import { Box, Slider } from '@mui/material';
import type { ReactElement } from 'react';
import type { DialControl } from './dial-control.ts';

/** A swatch that opens the browser's colour picker, and a slider for alpha. */
export function ColorControl({ dial, set, done }: DialControl): ReactElement {
  const alpha = dial.value[3] ?? 1;
  const solid = hexOfColor([...dial.value.slice(0, 3), 1]);
  return (
    <Box sx={{ width: 160, flex: 'none', display: 'flex', alignItems: 'center', gap: 1.5, mx: 0.5 }}>
      <Box
        component="input"
        type="color"
        aria-label={dial.name}
        value={solid}
        onInput={(event) => {
          set([...colorOfHex(event.currentTarget.value).slice(0, 3), alpha], true);
        }}
        onBlur={done}
        onChange={done}
        sx={{
          width: 72,
          height: 20,
          p: 0,
          border: 1,
          borderColor: 'divider',
          borderRadius: '3px',
          bgcolor: 'transparent',
          cursor: 'pointer',
          '&::-webkit-color-swatch-wrapper': { p: 0 },
          '&::-webkit-color-swatch': { border: 'none', borderRadius: '2px' },
        }}
      />
      <Slider
        aria-label={`${dial.name} alpha`}
        min={0}
        max={1}
        step={1 / 255}
        value={alpha}
        onChange={(_, next) => {
          set([...dial.value.slice(0, 3), next], true);
        }}
        onChangeCommitted={done}
        sx={{ width: 72 }}
      />
    </Box>
  );
}
