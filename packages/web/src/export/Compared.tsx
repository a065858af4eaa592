import { Box, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import type { TextureSupply } from '../gl/textures.ts';
import { tokens } from '../ui/tokens.ts';
import { COMPARED, COMPARED_FRAMES, comparePackage, type ComparedTarget, type Comparison } from './compare.ts';
import type { Package } from './package.ts';

const NAMES = { glsl: 'GLSL', wgsl: 'WGSL', hlsl: 'HLSL' } as const;

function wordsOf(comparison: Comparison): string {
  switch (comparison.kind) {
    case 'waiting':
      return 'measuring';
    case 'not-here':
      return `not run: ${comparison.why}`;
    case 'failed':
      return `refused: ${comparison.why.split('\n')[0] ?? ''}`;
    case 'measured': {
      const { worst, frame, place, share } = comparison;
      if (worst <= 1) return worst === 0 ? 'same' : 'same to 1 of 255';
      const far = share * 100 < 0.01 ? 'few pixels' : `${(share * 100).toFixed(2)} % of pixels`;
      return `differs by up to ${String(worst)} of 255 (frame ${String(frame)}, pixel ${place.join(', ')}); ${far} by more than 1`;
    }
  }
}
/** Steps of 255 above which a difference is worth a second look, on so many pixels. */
const isFar = (c: Comparison): boolean =>
  c.kind === 'failed' || (c.kind === 'measured' && c.worst > 2 && c.share > 0.005);

/** How far the exported code is from the bake, drawn there and then on this machine's graphics card. */
export function Compared({
  made,
  variant,
  supply,
}: {
  readonly made: Package;
  readonly variant: string | undefined;
  readonly supply: TextureSupply;
}): ReactElement {
  const [known, setKnown] = useState<{
    readonly of: Package;
    readonly found: ReadonlyMap<ComparedTarget, Comparison>;
  }>();
  const found = known?.of === made ? known.found : undefined;
  useEffect(() => {
    const abort = new AbortController();
    const tell = (target: ComparedTarget, comparison: Comparison): void => {
      if (abort.signal.aborted) return;
      setKnown((before) => ({
        of: made,
        found: new Map(before?.of === made ? before.found : []).set(target, comparison),
      }));
    };
    comparePackage(made, variant, supply, tell, abort.signal).catch((error: unknown) => {
      const why = error instanceof Error ? error.message : String(error);
      for (const target of COMPARED) tell(target, { kind: 'failed', why });
    });
    return () => {
      abort.abort();
    };
  }, [made, variant, supply]);
  const has = (target: string): boolean => made.files.has(`${made.name}.main.${target}`);
  return (
    <Box component="section" aria-label="Compared with the bake">
      <Typography component="h2" sx={{ color: 'text.secondary', mb: 0.5 }}>
        Compared with the bake
      </Typography>
      <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: '52px 1fr', rowGap: 0.5 }}>
        {COMPARED.filter(has).map((target) => {
          const comparison = found?.get(target) ?? { kind: 'waiting' };
          return (
            <Row key={target} name={NAMES[target]} alert={isFar(comparison)}>
              {wordsOf(comparison)}
            </Row>
          );
        })}
        {has('hlsl') && <Row name={NAMES.hlsl}>not run: browsers cannot run HLSL</Row>}
      </Box>
      <Typography sx={{ color: 'text.secondary', fontSize: 12, mt: 0.5 }}>
        {COMPARED_FRAMES} frames of 96 x 96 pixels, drawn by this graphics card.
      </Typography>
    </Box>
  );
}

function Row({
  name,
  children,
  alert = false,
}: {
  readonly name: string;
  readonly children: string;
  readonly alert?: boolean;
}): ReactElement {
  return (
    <>
      <Box component="dt" sx={{ fontWeight: 500 }}>
        {name}
      </Box>
      <Box component="dd" sx={{ m: 0, color: alert ? tokens.coral : 'text.secondary', overflowWrap: 'anywhere' }}>
        {children}
      </Box>
    </>
  );
}
