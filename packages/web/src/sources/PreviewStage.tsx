import { Box } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { tokens } from '../ui/tokens.ts';
import { clockOf } from '../material/clock-store.ts';
import { derive } from '../material/look.ts';
import type { StageView } from '../viewport/stage-frame.ts';
import { useViewport } from '../viewport/use-viewport.ts';
import type { TextureSupply } from '../gl/textures.ts';

const SQUARE: StageView = { kind: 'flat', repeat: 1 };

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
  const look = useMemo(() => derive(text).look, [text]);
  const [clock] = useState(() => clockOf(look.program.loop));
  const { surface, controller } = useViewport({ clock, supply, view: SQUARE, version, fill: 1 });
  useEffect(() => {
    controller?.setLook(look);
  }, [controller, look]);
  return (
    <Box ref={surface} role="img" aria-label={label} sx={{ position: 'absolute', inset: 0, bgcolor: tokens.pit }} />
  );
}
