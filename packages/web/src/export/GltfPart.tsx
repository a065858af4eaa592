import { SHAPES } from '@estela/core';
import { Box, Typography } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { fetchGlb, glbQuery, USUAL_GLB, type Glb, type GlbChoice } from '../project/glb/glb.ts';
import { GlbReportList } from '../project/glb/GlbReport.tsx';
import { GlbSettings } from '../project/glb/GlbSettings.tsx';
import { SHAPE_NAMES } from '../project/mesh-data.ts';
import { useWritten } from '../project/use-written.ts';
import { Choice, Line, Part } from '../ui/fields.tsx';
import { ExportBar, ExportSettings, NotWritten, type PartProps } from './ExportFrame.tsx';
import { GlbPlayer } from './GlbPlayer.tsx';
import { variantsOf } from './opened.ts';

/** A material as GLB: on which mesh, what players show of it, and how it plays from the file. */
export function GltfPart({ opened, attempt, again, choose }: PartProps): ReactElement {
  const { material, meshes } = opened;
  const [address, setAddress] = useSearchParams();
  const variants = useMemo(() => variantsOf(material.text), [material.text]);
  const choice: GlbChoice = {
    ...USUAL_GLB,
    mesh: address.get('mesh') ?? 'plane',
    variant: variants.find((v) => v === address.get('variant')),
    size: Number(address.get('size') ?? USUAL_GLB.size),
    frames: Number(address.get('frames') ?? USUAL_GLB.frames),
    images: (address.get('images') ?? USUAL_GLB.images) as GlbChoice['images'],
    leaveOutMissing: address.get('leaveOutMissing') === 'true',
  };
  const ask = (change: Partial<GlbChoice>): void => {
    const query = new URLSearchParams(glbQuery({ ...choice, ...change }));
    query.set('part', 'gltf');
    setAddress(query, { replace: true });
  };
  const written = useWritten(JSON.stringify([material.id, material.revision, choice, attempt]), (signal, progress) =>
    fetchGlb(`/api/materials/${material.id}`, choice, signal, progress),
  );
  const made = written.state === 'ready' ? written.made : undefined;
  return (
    <>
      <ExportBar opened={opened} file={made && { bytes: made.file, name: `${made.name}.glb` }} />
      <Box component="main" sx={{ flex: 1, minHeight: 0, minWidth: 800, display: 'flex' }}>
        <ExportSettings part="gltf" choose={choose}>
          <Part title="Scene">
            <Line name="Mesh">
              <Choice
                label="Mesh"
                value={choice.mesh ?? 'plane'}
                options={[
                  ...SHAPE_NAMES.map((name) => [name, SHAPES[name].label] as [string, string]),
                  ...meshes.map(({ id, name }) => [id, name] as [string, string]),
                ]}
                choose={(mesh) => {
                  ask({ mesh });
                }}
              />
            </Line>
            <Line name="Variants">
              <Choice
                label="Variants"
                value={choice.variant ?? ''}
                options={[
                  ['', variants.length > 0 ? 'Base with all variants' : 'Base'],
                  ...variants.map((v) => [v, `${v} alone`] as const),
                ]}
                choose={(value) => {
                  ask({ variant: value === '' ? undefined : value });
                }}
              />
            </Line>
          </Part>
          <GlbSettings choice={choice} change={ask} />
        </ExportSettings>
        {made ? (
          <Made made={made} />
        ) : (
          <NotWritten
            what="the GLB"
            opened={opened}
            written={written as Exclude<typeof written, { readonly state: 'ready' }>}
            leaveOut={() => {
              ask({ leaveOutMissing: true });
            }}
            again={again}
          />
        )}
      </Box>
    </>
  );
}

function Made({ made }: { readonly made: Glb }): ReactElement {
  return (
    <>
      <Box
        component="section"
        aria-label="Playback in other viewers"
        // What scrolls can be scrolled by keys.
        tabIndex={0}
        sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2, borderRight: 1, borderColor: 'divider' }}
      >
        <Typography component="h2" sx={{ color: 'text.secondary', mb: 1 }}>
          Playback in other viewers, {(made.file.size / 1e6).toFixed(2)} MB
        </Typography>
        <GlbReportList report={made.report} />
      </Box>
      <GlbPlayer glb={made} />
    </>
  );
}
