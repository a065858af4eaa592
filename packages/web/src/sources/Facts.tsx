import { Box, Button, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { Link } from 'react-router';
import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import type { Measures } from '../workers/pixels.worker.ts';
import { rebake } from '../project/bake.ts';
import { kindOf } from './SourceCard.tsx';
import { Section } from './Section.tsx';
import { recipeWords } from '../project/bake-words.ts';
import { isBaked, isPowerOfTwo, type Freshness, type Use } from '../project/usage.ts';
import type { ProjectSources } from '../project/use-project.ts';

const CHANNELS = ['', 'grey', 'grey and alpha', 'colour', 'colour and alpha'] as const;
const bytes = (n: number): string =>
  n < 1024 * 1024 ? `${String(Math.max(1, Math.round(n / 1024)))} kB` : `${(n / 1024 / 1024).toFixed(1)} MB`;

/** How a source came about, in words. */
function madeBy({ recipe, mime }: Source): string {
  switch (recipe?.kind) {
    case 'tile':
      return `made tileable from ${recipe.from}, by ${recipe.method === 'blend' ? 'blending' : 'patching'}`;
    case 'channel':
      return `${['red', 'green', 'blue', 'alpha'][recipe.channel] ?? ''} of ${recipe.from}`;
    case 'sheet':
      return `${String(recipe.columns)} x ${String(recipe.rows)} frames of ${recipe.from}: flipbook(${String(recipe.columns)}, ${String(recipe.rows)}, ...)`;
    case 'pack':
      return `packed: ${recipe.picks
        .map(
          ({ source, channel, invert, constant }, i) =>
            `${'RGBA'[i] ?? ''} ${source === undefined ? String(constant) : `${invert ? '1 - ' : ''}${source}.${'rgba'[channel] ?? ''}`}`,
        )
        .join(', ')}`;
    case 'bake':
      return `baked: ${recipeWords(recipe.bake)}`;
    case 'step':
      return `baked from '${recipe.bake.step}' at ${String(Number(recipe.bake.time.toFixed(3)))} s, as ${recipe.bake.encoding}`;
    default:
      return `${kindOf({ recipe, mime } as Source)} file`;
  }
}

/** What a source is, and who reads it how. */
export function Facts({
  source,
  measures,
  uses,
  freshness,
  shown,
  attempt,
}: {
  readonly source: Source;
  readonly measures: Measures | undefined;
  readonly uses: readonly Use[];
  readonly freshness: Freshness | undefined;
  readonly shown: ProjectSources;
  readonly attempt: (act: () => Promise<unknown>) => void;
}): ReactElement {
  const { width, height, bits, size, recipe } = source;
  const fits = isPowerOfTwo(width) && isPowerOfTwo(height);
  const maker = isBaked(recipe) ? shown.materials.find((m) => m.material.id === recipe.materialId) : undefined;
  const encodings = new Set(uses.map((u) => u.image.encoding));
  const row = (label: string, value: ReactNode): ReactElement => (
    <Box sx={{ display: 'flex', gap: 1 }}>
      <Typography component="dt" sx={{ width: 72, flex: 'none', color: 'text.secondary' }}>
        {label}
      </Typography>
      <Typography component="dd" sx={{ m: 0, minWidth: 0, overflowWrap: 'anywhere' }}>
        {value}
      </Typography>
    </Box>
  );
  return (
    <>
      <Section title="Details">
        <Box component="dl" sx={{ m: 0 }}>
          {row(
            'Size',
            `${String(width)} x ${String(height)}, ${fits ? 'powers of two' : 'not a power of two: old devices cannot repeat it'}`,
          )}
          {row(
            'Values',
            `${String(bits)} bits a channel, ${measures ? (CHANNELS[measures.channels] ?? '') : '...'}${measures && measures.frames > 1 ? `, first of ${String(measures.frames)} frames` : ''}`,
          )}
          {row('File', bytes(size))}
          {row('Origin', madeBy(source))}
        </Box>
        {isBaked(recipe) && (
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 0.5 }}>
            <Button
              variant="outlined"
              disabled={!maker || freshness === 'lost'}
              onClick={() => {
                if (maker) attempt(() => rebake(shown.store, source, maker));
              }}
            >
              Bake again
            </Button>
            <Typography
              sx={{ color: freshness === 'fresh' || freshness === 'unknown' ? 'text.secondary' : tokens.coral }}
            >
              {freshness === 'fresh'
                ? 'up to date with its material'
                : freshness === 'stale'
                  ? 'stale: the material changed since'
                  : freshness === 'lost'
                    ? 'the material or its baked step was deleted'
                    : freshness === 'unknown'
                      ? 'baked by an older version: bake it again to track changes of its material'
                      : ''}
            </Typography>
          </Box>
        )}
      </Section>
      <Section title="Used by">
        {uses.length === 0 && (
          <Typography sx={{ color: 'text.secondary' }}>
            No material. A line such as &apos;image mine = &quot;{source.name}&quot;&apos; reads it.
          </Typography>
        )}
        {uses.length > 0 && (
          <Box
            component="table"
            sx={{
              width: '100%',
              borderCollapse: 'collapse',
              '& td, & th': { textAlign: 'left', py: 0.25, pr: 1, fontWeight: 400 },
              '& th': { color: 'text.secondary' },
            }}
          >
            <thead>
              <tr>
                {['material', 'as', 'wrap', 'filter', 'encoding'].map((h) => (
                  <th key={h}>{h}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {uses.map(({ material, image }) => (
                <tr key={`${material.id} ${image.name}`}>
                  <td>
                    <Box component={Link} to={`/materials/${material.id}`} sx={{ color: 'text.primary' }}>
                      {material.title}
                    </Box>
                  </td>
                  <td>{image.name}</td>
                  <td>{image.wrap}</td>
                  <td>{image.filter}</td>
                  <td>{image.encoding}</td>
                </tr>
              ))}
            </tbody>
          </Box>
        )}
        {encodings.size > 1 && (
          <Typography sx={{ color: tokens.coral, mt: 0.5 }}>
            It is read as {[...encodings].join(' and as ')}: one of them is probably wrong.
          </Typography>
        )}
      </Section>
    </>
  );
}
