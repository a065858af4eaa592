import { colorOfHex, hexOfColor } from '@estela/core';
import { Box, Button, Popover } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { HexAlphaColorPicker } from 'react-colorful';
import { tokens } from '../../ui/tokens.ts';
import type { DialControl } from './dial-control.ts';

/** The hex text with alpha left out where it is whole. */
const short = (hex: string): string => hex.toLowerCase().replace(/^(#[0-9a-f]{6})ff$/, '$1');

/** A field of the colour, over a checkerboard for its alpha. */
export function ColorField({
  hex,
  width = 72,
}: {
  readonly hex: string;
  readonly width?: number | string;
}): ReactElement {
  return (
    <Box
      component="span"
      aria-hidden="true"
      sx={{
        display: 'inline-block',
        width,
        height: 16,
        borderRadius: '2px',
        border: 1,
        borderColor: 'divider',
        background: `linear-gradient(${hex}, ${hex}), repeating-conic-gradient(${tokens.row} 0 25%, ${tokens.dim} 0 50%) 0 0 / 8px 8px`,
      }}
    />
  );
}

/** Saturation, brightness, hue and alpha of an sRGB colour; all of one hand's stroke is one undo. */
export function ColorPlane({ dial, set, done }: DialControl): ReactElement {
  return (
    <Box
      onPointerUp={done}
      onKeyUp={done}
      sx={{
        '& .react-colorful': { width: 216, height: 208, gap: '8px' },
        '& .react-colorful__saturation': { borderRadius: '3px', borderBottom: 'none' },
        '& .react-colorful__hue, & .react-colorful__alpha': { height: 16, borderRadius: '3px !important' },
        '& .react-colorful__pointer': { width: 14, height: 14, borderRadius: '3px' },
      }}
    >
      <HexAlphaColorPicker
        aria-label={dial.name}
        color={hexOfColor(dial.value)}
        onChange={(hex) => {
          const value = colorOfHex(short(hex));
          if (hexOfColor(value) !== hexOfColor(dial.value)) set(value, true);
        }}
      />
    </Box>
  );
}

/** A field of the colour that opens the picker; `large` is the picker itself. */
export function ColorControl({ large = false, ...control }: DialControl & { readonly large?: boolean }): ReactElement {
  const { dial, done } = control;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (large) return <ColorPlane {...control} />;
  return (
    <>
      <Button
        aria-label={`${dial.name}, pick a colour`}
        aria-haspopup="dialog"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
        sx={{
          width: 'var(--control, 160px)',
          flex: 'none',
          mx: 0.5,
          justifyContent: 'flex-start',
          px: 0,
          minHeight: 24,
        }}
      >
        <ColorField hex={hexOfColor(dial.value)} width="100%" />
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          done();
          setAnchor(null);
        }}
        slotProps={{
          paper: {
            'aria-label': `Colour of ${dial.name}`,
            role: 'dialog',
            sx: { p: 1, border: 1, borderColor: 'divider' },
          },
        }}
      >
        <ColorPlane {...control} />
      </Popover>
    </>
  );
}
