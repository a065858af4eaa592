import { check, parse, TARGETS, type Target } from '@estela/core';
import { Box, Button, Checkbox, FormControlLabel, LinearProgress, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { useTitle } from '../ui/title.ts';
import { api, isMissing, sentence, type Material, type Project, type Source } from '../api/client.ts';
import { download } from '../project/project-zip.ts';
import { supplyOf } from '../project/supply.ts';
import { NotFoundPage, Notice, Place, TopBar } from '../ui/Page.tsx';
import { Choice, Line, Part } from '../ui/fields.tsx';
import { faces, tokens } from '../ui/tokens.ts';
import { CodePane } from './CodePane.tsx';
import { Compared } from './Compared.tsx';
import { queryOf, type Package, type PackageQuery } from './package.ts';
import { usePackage } from './use-package.ts';

interface Opened {
  readonly material: Material;
  readonly project: Project;
  readonly sources: readonly Source[];
}

/** A material on its way out: what leaves, the code, and how it plays from that code. */
export function ExportPage(): ReactElement {
  const { materialId = '' } = useParams();
  const [opened, setOpened] = useState<Opened>();
  const [problem, setProblem] = useState<{ readonly missing: boolean; readonly message: string }>();
  const [attempt, setAttempt] = useState(0);
  useEffect(() => {
    let gone = false;
    const open = async (): Promise<Opened> => {
      const material = await api.material(materialId);
      const [project, sources] = await Promise.all([api.project(material.projectId), api.sources(material.projectId)]);
      return { material, project, sources };
    };
    open().then(
      (found) => {
        if (gone) return;
        setProblem(undefined);
        setOpened(found);
      },
      (error: unknown) => {
        if (gone) return;
        const missing = isMissing(error);
        setProblem({ missing, message: sentence(error) });
      },
    );
    return () => {
      gone = true;
    };
  }, [materialId, attempt]);
  useTitle(opened ? `${opened.material.title}, export` : '');
  const again = (): void => {
    setAttempt(attempt + 1);
  };
  if (problem?.missing === true) return <NotFoundPage />;
  if (problem || !opened)
    return (
      <>
        <TopBar />
        <Notice
          busy={!problem}
          alert={problem !== undefined}
          title={problem ? 'The material cannot be opened' : 'Opening the material'}
          {...(problem ? { detail: problem.message, action: <Button onClick={again}>Try again</Button> } : {})}
        />
      </>
    );
  return <Exporting opened={opened} attempt={attempt} again={again} />;
}

const LANGUAGES: Readonly<Record<Target, string>> = {
  glsl: 'GLSL ES 3.00',
  hlsl: 'HLSL, Shader Model 5',
  wgsl: 'WGSL',
  c: 'C99, values of a frame',
  js: 'JavaScript, values of a frame',
};

function Exporting({
  opened: { material, project, sources },
  attempt,
  again,
}: {
  readonly opened: Opened;
  readonly attempt: number;
  readonly again: () => void;
}): ReactElement {
  const [address, setAddress] = useSearchParams();
  const variants = useMemo(() => check(parse(material.text)).variants.map((v) => v.name), [material.text]);
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
  const packed = usePackage(material.id, query, attempt);
  const made = packed.state === 'ready' ? packed.made : undefined;
  return (
    <>
      <TopBar least={800}>
        <Place
          links={[
            { to: '/', label: 'Shelf' },
            { label: project.name },
            { to: `/materials/${material.id}`, label: material.title },
          ]}
          here="Export"
        />
        <Typography sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
          revision {String(material.revision)}
        </Typography>
        <Button
          variant="contained"
          disabled={!made}
          sx={{ ml: 'auto', flex: 'none' }}
          onClick={() => {
            if (made) download(made.zip, `${made.name}.zip`);
          }}
        >
          {made ? `Download ${made.name}.zip` : 'Download'}
        </Button>
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, minWidth: 800, display: 'flex' }}>
        <Box
          sx={{
            width: 270,
            flex: 'none',
            overflow: 'auto',
            p: 1.5,
            borderRight: 1,
            borderColor: 'divider',
            display: 'grid',
            gap: 2,
            alignContent: 'start',
          }}
        >
          <Part title="Shader code">
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
          <Part title="As it is set">
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
        </Box>
        {packed.state === 'ready' && <CodePane made={packed.made} />}
        {packed.state === 'loading' && (
          <Box sx={{ flex: 1, p: 4 }} role="status">
            <Typography sx={{ mb: 1 }}>Writing the package</Typography>
            <LinearProgress
              aria-label="Writing the package"
              variant={packed.share > 0 ? 'determinate' : 'indeterminate'}
              value={packed.share * 100}
            />
          </Box>
        )}
        {packed.state === 'refused' && (
          <Notice
            alert
            title="Nothing was written"
            detail={packed.message}
            action={
              <Box sx={{ display: 'flex', gap: 1 }}>
                {packed.missing.length > 0 && (
                  <Button
                    variant="outlined"
                    onClick={() => {
                      ask({ leaveOutMissing: true });
                    }}
                  >
                    Leave {packed.missing.length === 1 ? 'it' : 'them'} out
                  </Button>
                )}
                {packed.missing.length > 0 && (
                  <Button component={Link} to={`/projects/${project.id}/sources`}>
                    To the sources
                  </Button>
                )}
                <Button component={Link} to={`/materials/${material.id}`}>
                  To the Bench
                </Button>
                <Button onClick={again}>Try again</Button>
              </Box>
            }
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
        {shaders.length > 1 && `; ${String(shaders.length)} shaders, one for each way that variants set them`}
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
