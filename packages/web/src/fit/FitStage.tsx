import { IDENTITY, uvSeamsOf } from '@estela/core';
import { Box, IconButton, MenuItem, Select, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { useStore } from 'zustand';
import type { Material, Project } from '../api/client.ts';
import { withParameters } from '../ui/address.ts';
import { PauseIcon, PlayIcon } from '../ui/icons.tsx';
import { tokens } from '../ui/tokens.ts';
import type { Clock } from '../material/clock-store.ts';
import { variantLook } from '../material/look-variant.ts';
import { readLookedAt } from '../bench/looked-at.ts';
import { openSession, SessionContext, useSession, type Session } from '../bench/session.ts';
import { MESH_LENSES, type MeshLens as MeshLensName } from '../viewport/lens.ts';
import { MeshLens } from '../viewport/MeshLens.tsx';
import { MeshView, type MeshViewHands } from '../viewport/MeshView.tsx';
import { lensLooks, seamBars } from '../viewport/paint.ts';
import type { StageItem } from '../viewport/stage-items.ts';
import { extentOf } from '../project/mesh-data.ts';
import type { SourcesStore } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import type { Fit } from './fit-store.ts';

/** The mesh with its UVs as they are now, dressed in a material of the project. */
export function FitStage({
  fit,
  project,
  materials,
  sources,
}: {
  readonly fit: Fit;
  readonly project: Project;
  readonly materials: readonly Material[];
  readonly sources: SourcesStore;
}): ReactElement {
  // What the mesh wears and the lens stand in the address, so that a link shows the same.
  const [parameters, setParameters] = useSearchParams();
  const put = (values: Readonly<Record<string, string | undefined>>): void => {
    setParameters(withParameters(parameters, values), { replace: true });
  };
  const wanted = parameters.get('material');
  const material = materials.find((m) => m.id === wanted) ?? materials[0];
  const wantedLens = parameters.get('lens') ?? '';
  const lens = Object.hasOwn(MESH_LENSES, wantedLens) ? (wantedLens as MeshLensName) : 'material';
  const session = useMemo(() => material && openSession(material, project, sources), [material, project, sources]);
  const variant = session && readLookedAt(parameters, session.document.getState().look.program).variant;
  useEffect(() => {
    session?.shown.setState({ variant });
  }, [session, variant]);
  return (
    <Box
      component="section"
      aria-label="Stage"
      sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 0.5,
          height: 36,
          px: 0.5,
          flex: 'none',
          borderBottom: 1,
          borderColor: 'divider',
          '& .MuiToggleButton-root': { px: 1 },
        }}
      >
        <ToggleButtonGroup
          exclusive
          value={lens}
          aria-label="Lens"
          onChange={(_, next: MeshLensName | null) => {
            if (next) put({ lens: next === 'material' ? undefined : next });
          }}
        >
          {(Object.entries(MESH_LENSES) as [MeshLensName, { label: string; title: string }][]).map(
            ([key, { label, title }]) => (
              <ToggleButton key={key} value={key} title={title}>
                {label}
              </ToggleButton>
            ),
          )}
        </ToggleButtonGroup>
        {session && <PlayButton clock={session.clock} />}
        {session && (
          <VariantSelect
            session={session}
            choose={(name) => {
              put({ variant: name });
            }}
          />
        )}
        {material && (
          <Select
            value={material.id}
            onChange={(event) => {
              put({ material: event.target.value, variant: undefined });
            }}
            inputProps={{ 'aria-label': 'Material' }}
            sx={{ height: 28, fontSize: 13, maxWidth: 150, '& .MuiSelect-select': { pl: 1, py: 0 } }}
          >
            {materials.map(({ id, title }) => (
              <MenuItem key={id} value={id}>
                {title}
              </MenuItem>
            ))}
          </Select>
        )}
      </Box>
      {session ? (
        <SessionContext value={session}>
          <Dressed fit={fit} lens={lens} />
        </SessionContext>
      ) : (
        <Box sx={{ p: 2, color: 'text.secondary' }}>The project has no material yet to dress the mesh in.</Box>
      )}
    </Box>
  );
}

function PlayButton({ clock }: { readonly clock: Clock }): ReactElement {
  const playing = useStore(clock, (s) => s.playing);
  const label = playing ? 'Pause' : 'Play';
  return (
    <IconButton
      aria-label={label}
      title={label}
      sx={{ ml: 'auto', color: playing ? tokens.amber : 'text.primary' }}
      onClick={playing ? clock.pause : clock.play}
    >
      {playing ? <PauseIcon /> : <PlayIcon />}
    </IconButton>
  );
}

/** Which values the material is shown with. */
function VariantSelect({
  session: { document, shown },
  choose,
}: {
  readonly session: Session;
  readonly choose: (variant: string | undefined) => void;
}): ReactElement {
  const variants = useStore(document, (s) => s.look.program.variants);
  const variant = useStore(shown, (s) => s.variant);
  return (
    <Select
      value={variant ?? ''}
      displayEmpty
      disabled={variants.length === 0}
      renderValue={(v) => (v === '' ? 'Base' : v)}
      onChange={(event) => {
        choose(event.target.value === '' ? undefined : event.target.value);
      }}
      inputProps={{ 'aria-label': 'Variant' }}
      sx={{ height: 28, fontSize: 13, maxWidth: 90, '& .MuiSelect-select': { pl: 1, py: 0 } }}
    >
      <MenuItem value="">Base</MenuItem>
      {variants.map(({ name }) => (
        <MenuItem key={name} value={name}>
          {name}
        </MenuItem>
      ))}
    </Select>
  );
}

/**
 * The mesh in its material; a click on it chooses the island there, and the bounds of what is chosen are drawn on it.
 */
function Dressed({ fit, lens }: { readonly fit: Fit; readonly lens: MeshLensName }): ReactElement {
  const { document, clock, sources, scene, shown } = useSession();
  const { mesh, islands, chosen } = useStore(fit.kept, (s) => s.value);
  const variant = useStore(shown, (s) => s.variant);
  const base = useStore(document, (s) => s.look);
  const look = useMemo(() => variantLook(base, variant), [base, variant]);
  const light = useStore(scene);
  const version = useStore(sources, (s) => s.sources);
  const supply = useMemo(() => supplyOf(() => sources.getState().sources), [sources]);
  const [lensed, setLensed] = useState<readonly StageItem[]>([]);
  const [hands, setHands] = useState<MeshViewHands>();
  const pressed = useRef<readonly [number, number]>([0, 0]);
  const { ofVertex } = islands;
  // Islands that are being dragged keep their seams.
  const seams = useMemo(() => (islands.count > 1 ? uvSeamsOf(fit.kept.settled().mesh) : []), [fit, islands]);
  const bounds = useMemo<readonly StageItem[]>(() => {
    const around = seams.filter(
      ({ ends, across }) => chosen.has(ofVertex[ends[0]]!) || chosen.has(ofVertex[across[0]]!),
    );
    return around.length === 0
      ? []
      : [
          {
            key: 'chosen',
            mark: true,
            mesh: seamBars(mesh, around, () => false, extentOf(mesh).radius * 1.6),
            look: lensLooks().paint,
          },
        ];
  }, [mesh, seams, chosen, ofVertex]);
  const items = useMemo<readonly StageItem[]>(
    () => [...(lens !== 'material' && lensed.length > 0 ? lensed : [{ key: 'stage', mesh }]), ...bounds],
    [lens, lensed, mesh, bounds],
  );
  // The form stays while UVs change, and so does the view.
  const [stand] = useState(() => extentOf(mesh));
  return (
    <MeshView
      items={items}
      look={look}
      scene={light}
      clock={clock}
      supply={supply}
      version={version}
      stand={stand}
      label="The mesh"
      ready={setHands}
      onPointerDown={(event) => {
        pressed.current = [event.clientX, event.clientY];
      }}
      onPointerUp={(event) => {
        if (!hands || Math.hypot(event.clientX - pressed.current[0], event.clientY - pressed.current[1]) > 4) return;
        const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
        const picked = hands.orbit.pick(
          [{ mesh, models: [IDENTITY] }],
          (event.clientX - left) / width,
          (event.clientY - top) / height,
        );
        const island = picked && ofVertex[picked.vertex];
        if (island === undefined) return;
        if (!event.shiftKey) fit.choose([island]);
        else fit.toggle(island);
      }}
    >
      {lens !== 'material' && <MeshLens lens={lens} mesh={mesh} show={setLensed} />}
    </MeshView>
  );
}
