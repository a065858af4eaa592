import { Box, IconButton, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { sentence } from '../api/client.ts';
import type { Glb } from '../project/glb/glb.ts';
import { Choice } from '../ui/fields.tsx';
import { PauseIcon, PlayIcon } from '../ui/icons.tsx';
import { tokens } from '../ui/tokens.ts';
import type { GlbStage } from './glb-stage.ts';

/** A GLB as another program shows it, read by a reader that is not ours. */
export function GlbPlayer({ glb }: { readonly glb: Glb }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [opened, setOpened] = useState<{ readonly of: Glb; readonly stage?: GlbStage; readonly problem?: string }>();
  const [variant, setVariant] = useState('');
  // As everywhere: who wants little motion starts it.
  const [playing, setPlaying] = useState(() => !matchMedia('(prefers-reduced-motion: reduce)').matches);
  useEffect(() => {
    let stage: GlbStage | undefined;
    const abort = new AbortController();
    const open = async (): Promise<GlbStage | undefined> => {
      const { openGlb } = await import('./glb-stage.ts');
      return canvas.current && !abort.signal.aborted ? openGlb(canvas.current, glb.file, tokens.pit) : undefined;
    };
    open().then(
      (found) => {
        stage = found;
        if (abort.signal.aborted) found?.end();
        else if (found) setOpened({ of: glb, stage: found });
      },
      (error: unknown) => {
        if (!abort.signal.aborted) setOpened({ of: glb, problem: sentence(error) });
      },
    );
    return () => {
      abort.abort();
      stage?.end();
    };
  }, [glb]);
  const now = opened?.of === glb ? opened : undefined;
  const stage = now?.stage;
  const variants = stage?.variants ?? [];
  useEffect(() => {
    stage?.play(playing);
  }, [stage, playing]);
  return (
    <Box
      component="section"
      aria-label="Played from the file"
      sx={{ width: 420, flex: 'none', display: 'flex', flexDirection: 'column', minHeight: 0, bgcolor: tokens.pit }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, p: 1, minHeight: 44 }}>
        <IconButton
          aria-label={playing ? 'Pause' : 'Play'}
          sx={{ color: playing ? tokens.amber : 'text.primary' }}
          onClick={() => {
            setPlaying(!playing);
          }}
        >
          {playing ? <PauseIcon /> : <PlayIcon />}
        </IconButton>
        <Typography component="h2" sx={{ color: 'text.secondary', flex: 1 }}>
          Played from the file
        </Typography>
        {variants.length > 0 && (
          <Choice
            label="Variant shown"
            value={variant}
            options={[['', 'Base'], ...variants.map((v) => [v, v] as const)]}
            choose={(next) => {
              setVariant(next);
              void stage?.wear(next === '' ? undefined : next);
            }}
          />
        )}
      </Box>
      <Box
        component="canvas"
        ref={canvas}
        aria-label={`${glb.name}, played from the file`}
        data-state={stage ? 'shown' : 'opening'}
        sx={{ display: 'block', flex: 1, minHeight: 0, width: '100%', touchAction: 'none' }}
      />
      {now?.problem !== undefined && (
        <Typography role="alert" sx={{ p: 1, color: tokens.coral }}>
          {now.problem}
        </Typography>
      )}
    </Box>
  );
}
