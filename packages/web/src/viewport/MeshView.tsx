import { Box } from '@mui/material';
import { useEffect, useEffectEvent, useMemo, type ReactElement, type ReactNode } from 'react';
import { tokens } from '../ui/tokens.ts';
import type { Scene } from '../material/lighting.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { Clock } from '../material/clock-store.ts';
import type { Look } from '../material/look.ts';
import { StageNote } from './Legend.tsx';
import { ORBIT_KEYS } from './lens.ts';
import type { Orbit } from './orbit.ts';
import type { StageController } from './stage-controller.ts';
import type { StageEvents } from './stage-events.ts';
import type { StageItem } from './stage-items.ts';
import type { PlacedView } from './use-placed.ts';
import { useViewport } from './use-viewport.ts';

export interface MeshViewHands {
  readonly controller: StageController;
  readonly orbit: Orbit;
}

/** Meshes with their materials, seen by a camera that is turned by dragging. */
export function MeshView({
  items,
  look,
  scene,
  clock,
  supply,
  version,
  stand,
  label,
  ready,
  drawn,
  hand,
  children,
}: {
  readonly items: readonly StageItem[];
  /** The material of those items that have none of their own. */
  readonly look?: Look | undefined;
  readonly scene: Scene;
  readonly clock: Clock;
  readonly supply: TextureSupply;
  /** Changes when the supply has other pixels. */
  readonly version: unknown;
  readonly stand: PlacedView['stand'];
  readonly label: string;
  readonly ready?: (hands: MeshViewHands | undefined) => void;
  readonly drawn?: StageEvents['drawn'];
  /** Handlers of pointers on it. */
  readonly hand?: object;
  readonly children?: ReactNode;
}): ReactElement {
  const view = useMemo(() => ({ kind: 'mesh', items }) as const, [items]);
  const { surface, controller, orbit, failure } = useViewport({
    clock,
    supply,
    view,
    scene,
    stand,
    version,
    drawn,
    pan: true,
  });
  const tell = useEffectEvent((hands: MeshViewHands | undefined) => ready?.(hands));
  useEffect(() => {
    controller?.setLook(look);
  }, [controller, look]);
  useEffect(() => {
    tell(controller && orbit && { controller, orbit });
  }, [controller, orbit]);
  return (
    <Box sx={{ position: 'relative', flex: 1, minHeight: 0, minWidth: 0, bgcolor: tokens.pit }}>
      <Box
        ref={surface}
        role="img"
        aria-label={label}
        aria-description={ORBIT_KEYS}
        tabIndex={0}
        {...hand}
        sx={{ position: 'absolute', inset: 0, touchAction: 'none' }}
      />
      {children}
      {failure !== undefined && <StageNote wrong>{failure}</StageNote>}
    </Box>
  );
}
