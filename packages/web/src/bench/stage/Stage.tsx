import { insertOutput } from '@estela/core';
import { Box, Button } from '@mui/material';
import { lazy, Suspense, useEffect, useMemo, useRef, useState, type ComponentProps, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { supplyOf } from '../../project/supply.ts';
import { isTyping } from '../document-store.ts';
import { drawsEarly } from '../early-picture.ts';
import { withSheet } from '../bake/desk.ts';
import { useSession } from '../session.ts';
import { DropZone } from '../textures/DropZone.tsx';
import { arrowStep } from '../../ui/arrow-keys.ts';
import { aloneIn, useSelectedIndex } from '../selection.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { StageNote } from '../../viewport/Legend.tsx';
import {
  ORBIT_KEYS,
  partsOfView,
  useStageAddress,
  type FlatLens,
  type MeshLens as MeshLensName,
} from '../../viewport/lens.ts';
import { shownLooks } from './shown-looks.ts';
import { keepStageRect } from './stage-rect.ts';
import { StageBar } from './StageBar.tsx';
import type { ProbePixel } from '../../workers/probe.ts';
import type { Scene } from '../../material/lighting.ts';
import { FILL, uvAt } from '../../viewport/flat-view.ts';
import type { StageController } from '../../viewport/stage-controller.ts';
import type { StageView } from '../../viewport/stage-frame.ts';
import type { StageItem } from '../../viewport/stage-items.ts';
import { usePlaced } from '../../viewport/use-placed.ts';
import { useViewport } from '../../viewport/use-viewport.ts';

// Reading files is a large part that most visits do without.
const Intake = lazy(async () => ({ default: (await import('../textures/Intake.tsx')).Intake }));
const TraceLine = lazy(async () => ({ default: (await import('./TraceLine.tsx')).TraceLine }));
const WipeBar = lazy(async () => ({ default: (await import('./WipeBar.tsx')).WipeBar }));
const HandleLayer = lazy(async () => ({ default: (await import('./HandleLayer.tsx')).HandleLayer }));
const LensLayer = lazy(async () => ({ default: (await import('./LensLayer.tsx')).LensLayer }));
const MeshLens = lazy(async () => ({ default: (await import('../../viewport/MeshLens.tsx')).MeshLens }));

const PIN_KEYS = 'Enter pins or unpins the pixel in the middle';
const FLAT_PIN_KEYS = `${PIN_KEYS}; arrow keys move it`;

const SQUARE: StageView = { kind: 'flat', repeat: 1 };
const TILES: StageView = { kind: 'flat', repeat: 3 };

/** The large preview. Which view is open is in the address, so that a link shows the same. */
export function Stage({ started }: { readonly started: boolean }): ReactElement {
  const session = useSession();
  const { document, clock, sources, pointer, selection, shown, panel, debounced } = session;
  const hasIntake = useStore(session.intake, (s) => s.batch !== undefined);
  const probing = useStore(panel, (s) => s.open.kind === 'probe');
  // Only probe and dissolve ask what lies under the pointer.
  const asking = useStore(panel, (s) => s.open.kind === 'probe' || s.open.kind === 'dissolve');
  const program = useStore(debounced, (s) => s.look.program);
  const alone = useStore(selection, (s) => aloneIn(program, s));
  const pressed = useRef<[number, number]>([0, 0]);
  const [drawn, setDrawn] = useState<readonly [scale: number, milliseconds: number | undefined]>([1, undefined]);
  const address = useStageAddress();
  const { view: name, lens } = address;
  const kind = partsOfView(name).kind;
  const subdivisions = useStore(session.scene, (s) => s.subdivisions);
  // Only a set shows it among others.
  const look = useStore(document, (s) => (kind === 'set' ? s.look : undefined));
  const variant = useStore(shown, (s) => s.variant);
  const own = useMemo(() => look && { id: session.material.id, look, variant }, [session, look, variant]);
  const placed = usePlaced(name, session.project.id, own, subdivisions);
  // What a lens puts there, in place of the material or over it.
  const [lensed, setLensed] = useState<readonly StageItem[]>([]);
  const view = useMemo<StageView>(
    () =>
      kind === 'flat'
        ? lens === 'tiling'
          ? TILES
          : SQUARE
        : { kind: 'mesh', items: lensed.length > 0 ? lensed : placed.items },
    [kind, lens, lensed, placed.items],
  );
  const comparing = useStore(shown, (s) => s.beside !== undefined);
  const placing = useStore(session.trace, (s) => s.placing);
  const errors = useStore(debounced, (s) => s.derived.diagnostics.filter((d) => d.severity === 'error').length);
  const empty = useStore(debounced, (s) => s.look.glsl.outputs.length === 0);

  const scene = useStore(session.scene);
  // Inks are told apart by themselves, before nothing.
  const plain = lens === 'speed' || lens === 'stretch' || lens === 'grid';
  const light = useMemo<Scene>(
    () => (plain ? { ...scene, backdrop: 'plain' } : (placed.scene ?? scene)),
    [plain, scene, placed.scene],
  );
  const supply = useMemo(
    () =>
      withSheet(
        supplyOf(() => sources.getState().sources),
        session.desk,
      ),
    [sources, session],
  );
  // Textures are on their way: what is seen is not the whole picture.
  const [busy, setBusy] = useState(false);
  const controllerOf = useRef<StageController>(undefined);
  const { surface, controller, orbit, failure } = useViewport({
    clock,
    supply,
    view,
    scene: light,
    stand: placed.stand,
    home: kind === 'shape',
    made: drawsEarly(clock),
    busy: () => isTyping(document),
    pictured: () => {
      if (!session.stage.getState().pictured) session.stage.setState({ pictured: true });
    },
    timed: (timed) => {
      session.stage.setState({ timed });
    },
    drawn: (scale, milliseconds) => {
      setDrawn([scale, milliseconds]);
      setBusy(controllerOf.current?.loading === true);
    },
  });
  useEffect(() => {
    controllerOf.current = controller;
  }, [controller]);
  useEffect(() => {
    if (!controller) return undefined;
    const keep = (): void => {
      keepStageRect(controller.canvas);
    };
    window.addEventListener('pagehide', keep);
    return () => {
      keep();
      window.removeEventListener('pagehide', keep);
    };
  }, [controller]);
  useEffect(() => {
    if (!controller) return undefined;
    const show = (): void => {
      const { main, beside } = shownLooks(session);
      controller.setLook(main, beside, shown.getState().wipe);
    };
    show();
    const ends = [
      document.subscribe((state, before) => {
        if (state.look !== before.look) show();
      }),
      selection.subscribe((now, before) => {
        if (now.alone !== before.alone) show();
      }),
      shown.subscribe(show),
      sources.subscribe(() => {
        controller.redraw();
      }),
    ];
    return () => {
      for (const end of ends) end();
    };
  }, [controller, session, document, sources, selection, shown]);

  const onMesh = kind !== 'flat';
  const pixelAt = (x: number, y: number, width: number, height: number): ProbePixel | undefined => {
    if (view.kind === 'mesh') {
      const things = controller?.placed.map(({ item, models }) => ({ mesh: item.mesh, models })) ?? [];
      return orbit?.pick(things, x / width, y / height)?.pixel;
    }
    const uv = uvAt(x, y, width, height, view.repeat);
    return uv && { uv };
  };

  return (
    <Box
      component="section"
      aria-label="Stage"
      sx={{ flex: 1, minHeight: 160, display: 'flex', flexDirection: 'column' }}
    >
      <StageBar address={address} drawn={drawn} started={started} />
      <DropZone words="Drop to use it in the material, or to preview on the mesh" sx={{ bgcolor: tokens.pit }}>
        <Box
          ref={surface}
          role="img"
          aria-label="The material"
          aria-busy={busy}
          aria-description={[onMesh && ORBIT_KEYS, probing && (onMesh ? PIN_KEYS : FLAT_PIN_KEYS)]
            .filter(Boolean)
            .join('; ')}
          tabIndex={0}
          onPointerMove={(event) => {
            if (!asking) return;
            const { clientWidth, clientHeight } = event.currentTarget;
            const { offsetX, offsetY } = event.nativeEvent;
            pointer.setState({ pixel: pixelAt(offsetX, offsetY, clientWidth, clientHeight) });
          }}
          onPointerDown={(event) => {
            pressed.current = [event.clientX, event.clientY];
          }}
          onClick={(event) => {
            if (!probing || Math.hypot(event.clientX - pressed.current[0], event.clientY - pressed.current[1]) > 4)
              return;
            const { clientWidth, clientHeight } = event.currentTarget;
            const pixel = pixelAt(event.nativeEvent.offsetX, event.nativeEvent.offsetY, clientWidth, clientHeight);
            const { pinned } = pointer.getState();
            const same = pixel && pinned && Math.hypot(pixel.uv[0] - pinned.uv[0], pixel.uv[1] - pinned.uv[1]) < 0.02;
            pointer.setState({ pinned: same ? undefined : pixel });
          }}
          onKeyDown={(event) => {
            if (!probing) return;
            const { clientWidth, clientHeight } = event.currentTarget;
            const { pinned } = pointer.getState();
            const by = onMesh ? undefined : arrowStep(event.key);
            if (event.key === 'Enter')
              pointer.setState({
                pinned: pinned ? undefined : pixelAt(clientWidth / 2, clientHeight / 2, clientWidth, clientHeight),
              });
            else if (by) {
              // On a mesh arrow keys turn the view.
              const [u, v] = pinned?.uv ?? [0.5, 0.5];
              const to = (at: number, step: number): number =>
                Math.min(Math.max(at + step * (event.shiftKey ? 0.1 : 0.01), 0), 1);
              pointer.setState({ pinned: { uv: [to(u, by[0]), to(v, by[1])] } });
            } else return;
            event.preventDefault();
            event.stopPropagation();
          }}
          onPointerLeave={() => {
            pointer.setState({ pixel: undefined });
          }}
          sx={{ position: 'absolute', inset: 0, touchAction: 'none' }}
        />
        {name === 'flat' && lens !== 'material' && (
          <Suspense>
            <LensLayer lens={lens as Exclude<FlatLens, 'material'>} />
          </Suspense>
        )}
        {kind !== 'flat' && kind !== 'set' && lens !== 'material' && placed.mesh && (
          <Suspense>
            <OpenMeshLens lens={lens as Exclude<MeshLensName, 'material'>} mesh={placed.mesh} show={setLensed} />
          </Suspense>
        )}
        {started && name === 'flat' && lens === 'material' && !probing && !placing && (
          <Suspense>
            <HandleLayer />
          </Suspense>
        )}
        {name === 'flat' && lens === 'material' && probing && <PinMark />}
        <Suspense>
          {name === 'flat' && lens !== 'tiling' && placing && <TraceLine />}
          {comparing && <WipeBar />}
        </Suspense>
        {alone && (
          <StageNote top label="Step alone">
            <span>
              Only <strong>{alone.kind === 'out' ? `out ${alone.name}` : alone.name}</strong>
            </span>
            <Box component="span" sx={{ color: 'text.secondary' }}>
              Alt with up and down goes through the steps
            </Box>
            <Button
              onClick={() => {
                selection.setState({ alone: undefined });
              }}
            >
              Show the material (Esc)
            </Button>
          </StageNote>
        )}
        {(errors > 0 || failure !== undefined || empty || placed.message !== '') && (
          // At its foot stands what a lens tells.
          <StageNote wrong={errors > 0 || failure !== undefined} top={lens !== 'material' && !alone}>
            {failure ??
              (errors > 0 ? (
                `Showing the last valid version (${errors === 1 ? '1 error' : `${String(errors)} errors`}).`
              ) : empty ? (
                <NoOutput />
              ) : (
                placed.message
              ))}
          </StageNote>
        )}
        <Suspense>{hasIntake && <Intake />}</Suspense>
      </DropZone>
    </Box>
  );
}

/** What a material without an output needs next. */
function NoOutput(): ReactElement {
  const { document, debounced, selection } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const index = program.steps.findLastIndex((s) => s.kind === 'step' && !s.off && s.type !== 'unknown');
  const step = program.steps[index];
  if (!step) return <span>Drop a texture here, or press Ctrl+K to insert a step.</span>;
  return (
    <>
      <span>No output yet.</span>
      <Button
        onClick={() => {
          const now = document.getState().derived.program;
          const { edits, step: made } = insertOutput(now, 'color', index);
          document.edit(edits);
          selection.setState({ step: stepRefOf(document.getState().derived.program, made) });
        }}
      >
        Output {step.name} as color
      </Button>
    </>
  );
}

/** A lens on the open material. */
function OpenMeshLens(props: Omit<ComponentProps<typeof MeshLens>, 'subject'>): ReactElement {
  const { debounced, clock, drawable, checks } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const step = useSelectedIndex();
  const verdicts = useStore(checks, (s) => s.report?.verdicts.whole.verdicts);
  return <MeshLens {...props} subject={{ drawable, program, clock, step, verdicts }} />;
}

/** Where the probe is pinned. */
function PinMark(): ReactElement | null {
  const { pointer } = useSession();
  const pinned = useStore(pointer, (s) => s.pinned);
  if (!pinned) return null;
  const [u, v] = pinned.uv;
  // The square as `flatView` lays it, in units of the Stage's shorter side.
  const offset = (share: number, side: 'cqw' | 'cqh'): string =>
    `calc(50${side} + ${String((share - 0.5) * FILL * 100)}cqmin)`;
  return (
    <Box sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', containerType: 'size' }}>
      <Box
        sx={{
          position: 'absolute',
          left: offset(u, 'cqw'),
          top: offset(v, 'cqh'),
          width: 13,
          height: 13,
          m: '-6px',
          border: `2px solid ${tokens.text}`,
          outline: `1px solid ${tokens.pit}`,
          borderRadius: '50%',
        }}
      />
    </Box>
  );
}
