import { Box } from '@mui/material';
import {
  useEffect,
  useEffectEvent,
  useRef,
  useState,
  type PointerEvent,
  type ReactElement,
  type ReactNode,
} from 'react';
import { tokens } from '../ui/tokens.ts';
import type { Scene } from '../material/lighting.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { Clock } from '../material/clock-store.ts';
import type { Look } from '../material/look.ts';
import { StageNote } from './Legend.tsx';
import { ORBIT_KEYS } from './lens.ts';
import type { Orbit } from './orbit.ts';
import { StageController } from './stage-controller.ts';
import type { StageItem } from './stage-items.ts';
import { standAt, type PlacedView } from './use-placed.ts';

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
  onPointerDown,
  onPointerMove,
  onPointerUp,
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
  readonly drawn?: (scale: number, milliseconds: number | undefined) => void;
  readonly onPointerDown?: (event: PointerEvent<HTMLElement>) => void;
  readonly onPointerMove?: (event: PointerEvent<HTMLElement>) => void;
  readonly onPointerUp?: (event: PointerEvent<HTMLElement>) => void;
  readonly children?: ReactNode;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [hands, setHands] = useState<{ readonly controller: StageController; readonly orbit?: Orbit }>();
  const [lost, setLost] = useState(false);
  const [failure, setFailure] = useState<string>();
  const tell = useEffectEvent((next: MeshViewHands | undefined) => ready?.(next));
  const told = useEffectEvent((scale: number, milliseconds: number | undefined) => drawn?.(scale, milliseconds));
  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    let gone = false;
    let orbit: Orbit | undefined;
    const controller = new StageController(
      element,
      clock,
      supply,
      { failed: setFailure, lost: setLost, drawn: told },
      (aspect) => orbit?.see(aspect),
    );
    setHands({ controller });
    void import('./orbit.ts').then(({ createOrbit }) => {
      if (gone) return;
      const made = (orbit = createOrbit(
        element,
        () => {
          controller.redraw();
        },
        true,
      ));
      setHands({ controller, orbit: made });
      tell({ controller, orbit: made });
    });
    return () => {
      gone = true;
      tell(undefined);
      controller.dispose();
      orbit?.dispose();
      setHands(undefined);
    };
  }, [clock, supply]);
  const controller = hands?.controller;
  useEffect(() => {
    controller?.setLook(look);
  }, [controller, look]);
  useEffect(() => {
    controller?.setView({ kind: 'mesh', items });
  }, [controller, items]);
  useEffect(() => {
    controller?.setScene(scene);
  }, [controller, scene]);
  useEffect(() => {
    controller?.redraw();
  }, [controller, version]);
  useEffect(() => {
    if (hands?.orbit && stand) standAt(hands.orbit, stand);
  }, [hands, stand]);
  return (
    <Box sx={{ position: 'relative', flex: 1, minHeight: 0, minWidth: 0, bgcolor: tokens.pit }}>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={label}
        aria-description={ORBIT_KEYS}
        tabIndex={0}
        onPointerDownCapture={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', display: 'block', touchAction: 'none' }}
      />
      {children}
      {(lost || failure !== undefined) && (
        <StageNote wrong>
          {lost
            ? 'The graphics context was lost; it comes back by itself.'
            : `The driver refuses this shader: ${failure?.split('\n')[0] ?? ''}`}
        </StageNote>
      )}
    </Box>
  );
}
