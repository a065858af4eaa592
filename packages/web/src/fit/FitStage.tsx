import { IDENTITY, outlineOf, partOf, uvSeamsOf } from '@estela/core';
import { Box, IconButton, MenuItem, Select, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { useStore } from 'zustand';
import type { Material } from '../api/client.ts';
import { withParameters } from '../ui/address.ts';
import { PauseIcon, PlayIcon } from '../ui/icons.tsx';
import { tokens } from '../ui/tokens.ts';
import { partsOn, useDrag } from '../ui/use-drag.ts';
import type { Clock } from '../material/clock-store.ts';
import { compileMaterial, type CompiledMaterial } from '../material/compiled-material.ts';
import { variantLook } from '../material/look-variant.ts';
import { MESH_LENSES, type MeshLens as MeshLensName } from '../viewport/lens.ts';
import { MeshLens } from '../viewport/MeshLens.tsx';
import { MeshView, type MeshViewHands } from '../viewport/MeshView.tsx';
import { lensLooks, seamBars } from '../viewport/paint.ts';
import type { StageItem } from '../viewport/stage-items.ts';
import { extentOf } from '../project/mesh-data.ts';
import type { SourcesStore } from '../project/sources-store.ts';
import { refsOf, supplyOf } from '../project/supply.ts';
import type { Fit } from './fit-store.ts';

/** The mesh with its UVs as they are now, dressed in a material of the project. */
export function FitStage({
  fit,
  materials,
  sources,
}: {
  readonly fit: Fit;
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
  const compiled = useMemo(() => material && compileMaterial(material.text), [material]);
  const names = compiled?.derived.program.variants.map((v) => v.name) ?? [];
  const variant = names.find((name) => name === parameters.get('variant'));
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
        {compiled && <PlayButton clock={compiled.clock} />}
        {compiled && (
          <VariantSelect
            names={names}
            variant={variant}
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
      {compiled ? (
        <Dressed fit={fit} lens={lens} compiled={compiled} variant={variant} sources={sources} />
      ) : (
        <Box sx={{ p: 2, color: 'text.secondary' }}>The project has no material to preview yet.</Box>
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
  names,
  variant,
  choose,
}: {
  readonly names: readonly string[];
  readonly variant: string | undefined;
  readonly choose: (variant: string | undefined) => void;
}): ReactElement {
  return (
    <Select
      value={variant ?? ''}
      displayEmpty
      disabled={names.length === 0}
      renderValue={(v) => (v === '' ? 'Base' : v)}
      onChange={(event) => {
        choose(event.target.value === '' ? undefined : event.target.value);
      }}
      inputProps={{ 'aria-label': 'Variant' }}
      sx={{ height: 28, fontSize: 13, maxWidth: 90, '& .MuiSelect-select': { pl: 1, py: 0 } }}
    >
      <MenuItem value="">Base</MenuItem>
      {names.map((name) => (
        <MenuItem key={name} value={name}>
          {name}
        </MenuItem>
      ))}
    </Select>
  );
}

/**
 * The mesh in its material; a click on it selects the island or the face there, and the outline of what is selected is drawn on
 * it, as is what stands in the way of something.
 */
function Dressed({
  fit,
  lens,
  compiled: { derived, clock, scene },
  variant,
  sources,
}: {
  readonly fit: Fit;
  readonly lens: MeshLensName;
  readonly compiled: CompiledMaterial;
  readonly variant: string | undefined;
  readonly sources: SourcesStore;
}): ReactElement {
  const { mesh, islands, selected } = useStore(fit.kept, (s) => s.value);
  const wrong = useStore(fit.problem, (s) => s.triangles);
  const look = useMemo(() => variantLook(derived.look, variant), [derived, variant]);
  const subject = useMemo(
    () => ({
      program: derived.program,
      clock,
      drawable: {
        subject: () =>
          derived.ok ? { text: derived.text, variant, pictures: refsOf(sources.getState().sources) } : undefined,
        watch: (changed: () => void) => sources.subscribe(changed),
      },
    }),
    [derived, clock, variant, sources],
  );
  const light = useStore(scene);
  const version = useStore(sources, (s) => s.sources);
  const supply = useMemo(() => supplyOf(() => sources.getState().sources), [sources]);
  const [lensed, setLensed] = useState<readonly StageItem[]>([]);
  const [hands, setHands] = useState<MeshViewHands>();
  // Islands that are being dragged keep their seams.
  const seams = useMemo(() => (islands.count > 1 ? uvSeamsOf(fit.kept.settled().mesh) : []), [fit, islands]);
  const bounds = useMemo<readonly StageItem[]>(() => {
    const part = partOf(mesh, selected);
    const around = [
      // Of all there is nothing to tell it apart from.
      ...(selected.includes(0) ? outlineOf(mesh, (t) => selected[t] === 1) : []),
      ...seams.filter(({ ends, across }) => part[ends[0]] === 1 || part[across[0]] === 1),
    ];
    const marked = new Set(wrong);
    const stands = outlineOf(mesh, (t) => marked.has(t));
    const bars = [...around, ...stands];
    if (bars.length === 0) return [];
    const form = seamBars(mesh, bars, (i) => i >= around.length, extentOf(mesh).radius * 1.6);
    return [{ key: 'selected', mark: true, mesh: form, look: lensLooks().paint }];
  }, [mesh, seams, selected, wrong]);
  const items = useMemo<readonly StageItem[]>(
    () => [...(lens !== 'material' && lensed.length > 0 ? lensed : [{ key: 'stage', mesh }]), ...bounds],
    [lens, lensed, mesh, bounds],
  );
  // The form stays while UVs change, and so does the view.
  const [stand] = useState(() => extentOf(mesh));
  const click = useDrag<Element>(
    {
      start: ({ event }) => event.currentTarget,
      end: (at, on) => {
        if (!hands || Math.hypot(...at.moved) > 4) return;
        const picked = hands.orbit.pick([{ mesh, models: [IDENTITY] }], ...partsOn(on, at));
        if (picked) fit.selecting.at(picked.triangle, at.event.shiftKey);
      },
    },
    { first: true },
  );
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
      hand={click()}
    >
      {lens !== 'material' && <MeshLens lens={lens} mesh={mesh} subject={subject} show={setLensed} />}
    </MeshView>
  );
}
