import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { tokens } from '../ui/tokens.ts';
import { createClock } from '../material/clock-store.ts';
import { derive } from '../material/look.ts';
import { StageController } from '../viewport/stage-controller.ts';
import type { TextureSupply } from '../gl/textures.ts';

/**
 * Plays a small material in a square, over the pixels a supply gives; `version` changes when they do. The UV square
 * fills it whole.
 */
export function PreviewStage({
  text,
  supply,
  version,
  label,
}: {
  readonly text: string;
  readonly supply: TextureSupply;
  readonly version: string;
  readonly label: string;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const controller = useRef<StageController>(undefined);
  useEffect(() => {
    if (!canvas.current) return undefined;
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches;
    const nothing = (): void => undefined;
    const made = new StageController(
      canvas.current,
      createClock(4, 30, !still),
      supply,
      { failed: nothing, lost: nothing, drawn: nothing },
      () => undefined,
      1,
    );
    controller.current = made;
    return () => {
      made.dispose();
      controller.current = undefined;
    };
  }, [supply]);
  useEffect(() => {
    controller.current?.setLook(derive(text).look);
  }, [text, supply]);
  useEffect(() => {
    controller.current?.redraw();
  }, [version]);
  return (
    <Box
      component="canvas"
      ref={canvas}
      role="img"
      aria-label={label}
      sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', bgcolor: tokens.pit }}
    />
  );
}
