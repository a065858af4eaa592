import { TARGETS, type Target } from '@estela/core';
import { Box, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { supplyOf } from '../project/supply.ts';
import { useWritten } from '../project/use-written.ts';
import { Choice, Line, Part } from '../ui/fields.tsx';
import { faces, tokens } from '../ui/tokens.ts';
import { CodePane } from './CodePane.tsx';
import { Compared } from './Compared.tsx';
import { ExportBar, ExportSettings, NotWritten, type PartProps } from './ExportFrame.tsx';
import { variantsOf } from './opened.ts';
import { fetchPackage, queryOf, type Package, type PackageQuery } from './package.ts';

const LANGUAGES: Readonly<Record<Target, string>> = {
  glsl: 'GLSL ES 3.00',
  hlsl: 'HLSL, Shader Model 5',
  wgsl: 'WGSL',
  c: 'C99, values of a frame',
  js: 'JavaScript, values of a frame',
};

/** A material as a package: the code, and how it plays from that code. */
export function CodePart({ opened, attempt, again, choose }: PartProps): ReactElement {
  const { material, sources } = opened;
  const [address, setAddress] = useSearchParams();
  const variants = useMemo(() => variantsOf(material.text), [material.text]);
  const supply = useMemo(() => supplyOf(() => sources), [sources]);
  const chosen = TARGETS.filter((t) => (address.get('target') ?? TARGETS.join(',')).split(',').includes(t));
  const variant = variants.find((v) => v === address.get('variant'));
  const query: PackageQuery = {
    targets: chosen.length > 0 ? chosen : TARGETS,
    variant,
    normalY: address.get('normalY') === 'down' ? 'down' : 'up',
    leaveOutMissing: address.get('leaveOutMissing') === 'true',
  };
  const ask = (change: Partial<PackageQuery>): void => {
    setAddress(queryOf({ ...query, ...change }), { replace: true });
  };
  const packed = useWritten(JSON.stringify([material.id, material.revision, query, attempt]), (signal, progress) =>
    fetchPackage(material.id, query, signal, progress),
  );
  const made = packed.state === 'ready' ? packed.made : undefined;
  return (
    <>
      <ExportBar opened={opened} file={made && { bytes: made.zip, name: `${made.name}.zip` }} />
      <Box component="main" sx={{ flex: 1, minHeight: 0, minWidth: 800, display: 'flex' }}>
        <ExportSettings part="code" choose={choose}>
          <Part title="Languages">
            {TARGETS.map((target) => (
              <FormControlLabel
                key={target}
                label={LANGUAGES[target]}
                sx={{ display: 'flex', m: 0, minHeight: 28 }}
                control={
                  <Checkbox
                    size="small"
                    checked={query.targets.includes(target)}
                    disabled={query.targets.length === 1 && query.targets[0] === target}
                    onChange={(_, on) => {
                      ask({ targets: TARGETS.filter((t) => (t === target ? on : query.targets.includes(t))) });
                    }}
                    sx={{ p: 0.5, ml: -0.5 }}
                  />
                }
              />
            ))}
          </Part>
          <Part title="Settings">
            <Line name="Variant">
              <Choice
                label="Variant"
                value={variant ?? ''}
                options={[['', 'Base'], ...variants.map((v) => [v, v] as const)]}
                choose={(value) => {
                  ask({ variant: value === '' ? undefined : value });
                }}
              />
            </Line>
            <Line name="Normals">
              <Choice
                label="Normals"
                value={query.normalY}
                options={[
                  ['up', 'y up'],
                  ['down', 'y down'],
                ]}
                choose={(value) => {
                  ask({ normalY: value === 'down' ? 'down' : 'up' });
                }}
              />
            </Line>
            <Switches made={made} />
          </Part>
          {made && <Compared made={made} variant={variant} supply={supply} />}
        </ExportSettings>
        {packed.state === 'ready' && <CodePane made={packed.made} />}
        {packed.state !== 'ready' && (
          <NotWritten
            what="the package"
            opened={opened}
            written={packed}
            leaveOut={() => {
              ask({ leaveOutMissing: true });
            }}
            again={again}
          />
        )}
        {made && (
          <Box sx={{ width: 330, flex: 'none', display: 'flex', flexDirection: 'column', minHeight: 0 }}>
            <Box
              component="iframe"
              title={`${material.title}, played from the package`}
              src={`/api/materials/${material.id}/export/index.html?${queryOf(query)}`}
              sandbox="allow-scripts"
              sx={{ border: 0, width: '100%', flex: 3, minHeight: 340, bgcolor: tokens.pit }}
            />
            <Contents made={made} />
          </Box>
        )}
      </Box>
    </>
  );
}

/** How switches were settled: they are no dials of the code. */
function Switches({ made }: { readonly made: Package | undefined }): ReactElement | null {
  const shaders = useMemo(() => {
    const bytes = made?.files.get(`${made.name}.json`);
    if (!bytes) return [];
    const manifest = JSON.parse(new TextDecoder().decode(bytes)) as {
      readonly shaders: readonly { readonly name: string; readonly switches: Readonly<Record<string, boolean>> }[];
    };
    return manifest.shaders;
  }, [made]);
  const [first] = shaders;
  if (!first || Object.keys(first.switches).length === 0) return null;
  return (
    <Line name="Switches">
      <Typography sx={{ color: 'text.secondary' }}>
        {Object.entries(first.switches)
          .map(([name, on]) => `${name} ${on ? 'on' : 'off'}`)
          .join(', ')}
        {shaders.length > 1 && `; ${String(shaders.length)} shaders, one for each combination in variants`}
      </Typography>
    </Line>
  );
}

const size = (bytes: number): string =>
  bytes < 1000
    ? `${String(bytes)} B`
    : bytes < 1e6
      ? `${(bytes / 1000).toFixed(1)} kB`
      : `${(bytes / 1e6).toFixed(1)} MB`;

/** What is in a package, with sizes. */
function Contents({ made }: { readonly made: Package }): ReactElement {
  return (
    <Box
      component="section"
      aria-label="In the package"
      // What scrolls can be scrolled by keys.
      tabIndex={0}
      sx={{ flex: 2, minHeight: 120, overflow: 'auto', p: 1.5, borderTop: 1, borderColor: 'divider' }}
    >
      <Typography component="h2" sx={{ color: 'text.secondary', mb: 0.5 }}>
        In the package, {size(made.zip.size)}
      </Typography>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', fontFamily: faces.figures, fontSize: 12 }}>
        {[...made.files].map(([name, bytes]) => (
          <Box component="li" key={name} sx={{ display: 'flex', gap: 1, lineHeight: 1.6 }}>
            <Box component="span" sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
              {name}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
              {size(bytes.length)}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
