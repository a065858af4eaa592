import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import type { Source } from '../api/client.ts';
import { CaptionLink, CardItem } from '../ui/CardItem.tsx';
import { tokens } from '../ui/tokens.ts';
import { SourcePicture } from '../project/SourcePicture.tsx';
import { isPowerOfTwo, type Freshness, type Use } from '../project/usage.ts';

/** What kind of source it is, in a word or two. */
export function kindOf({ recipe, mime }: Source): string {
  switch (recipe?.kind) {
    case 'path':
      return 'path map';
    case 'flow':
      return 'flow map';
    case 'bake':
      return `baked ${recipe.bake.format}`;
    case 'step':
      return `baked from ${recipe.bake.step}`;
    case 'pack':
      return 'packed channels';
    case 'tile':
      return 'made tileable';
    case 'channel':
      return 'one channel';
    case 'sheet':
      return `sheet, ${String(recipe.columns)} x ${String(recipe.rows)}`;
    default:
      return (
        { 'image/png': 'PNG', 'image/jpeg': 'JPEG', 'image/webp': 'WebP', 'image/x-tga': 'TGA', 'image/gif': 'GIF' }[
          mime
        ] ?? mime
      );
  }
}

/** How a picture is read by its materials: each way once. */
export const waysOf = (uses: readonly Use[]): string[] => [
  ...new Set(uses.map(({ image }) => `${image.wrap}, ${image.filter}, ${image.encoding}`)),
];

/** A source among the others of its project. */
export function SourceCard({
  source,
  uses,
  freshness,
}: {
  readonly source: Source;
  readonly uses: readonly Use[];
  readonly freshness: Freshness | undefined;
}): ReactElement {
  const { id, projectId, name, width, height, bits } = source;
  const materials = new Set(uses.map((u) => u.material.id)).size;
  const ways = waysOf(uses);
  const fits = isPowerOfTwo(width) && isPowerOfTwo(height);
  return (
    <CardItem>
      <Box
        component={Link}
        to={`/projects/${projectId}/sources/${id}`}
        tabIndex={-1}
        aria-hidden="true"
        sx={{ display: 'block' }}
      >
        <SourcePicture source={source} size={176} />
      </Box>
      <Box sx={{ px: 1, py: 0.75 }}>
        <Typography component="h2" noWrap title={name} sx={{ fontWeight: 500, fontSize: 13 }}>
          <CaptionLink to={`/projects/${projectId}/sources/${id}`} label={`Open ${name}`}>
            {name}
          </CaptionLink>
        </Typography>
        <Typography variant="caption" component="p" noWrap>
          {width} x {height}, {bits} bit, {kindOf(source)}
        </Typography>
        <Typography variant="caption" component="p" noWrap title={ways.join('; ')}>
          {materials === 0
            ? 'not used by any material'
            : `${materials === 1 ? '1 material' : `${String(materials)} materials`}: ${ways.length === 1 ? (ways[0] ?? '') : `${String(ways.length)} ways`}`}
        </Typography>
        <Typography
          variant="caption"
          component="p"
          noWrap
          sx={{ color: freshness === 'stale' || freshness === 'lost' ? tokens.coral : 'text.secondary', minHeight: 16 }}
        >
          {freshness === 'stale'
            ? 'stale: its material changed'
            : freshness === 'lost'
              ? 'its material was deleted'
              : fits
                ? ''
                : 'not a power of two'}
        </Typography>
      </Box>
    </CardItem>
  );
}
