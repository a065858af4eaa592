import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { tokens } from '../ui/tokens.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { PicturePlayer } from './picture-player.ts';

/** A small square that plays a material. One without a label says nothing that does not stand beside it. */
export function PlayingPicture({
  player,
  text,
  supply,
  size,
  label,
}: {
  readonly player: PicturePlayer;
  readonly text: string;
  readonly supply: TextureSupply;
  /** Side in pixels. */
  readonly size: number;
  readonly label?: string;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => (canvas.current ? player.show(canvas.current, text, supply) : undefined), [player, text, supply]);
  return (
    <Box
      component="canvas"
      ref={canvas}
      width={size}
      height={size}
      {...(label === undefined ? { 'aria-hidden': true } : { role: 'img', 'aria-label': label })}
      sx={{ display: 'block', width: size, height: size, flex: 'none', bgcolor: tokens.pit }}
    />
  );
}
