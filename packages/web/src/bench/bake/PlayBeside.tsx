import type { BakeRecipe, Program } from '@estela/core';
import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useEffect, useMemo, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import type { BakedSubject } from '../../workers/baking.worker.ts';
import { useSession } from '../session.ts';
import { planOf, type Flipbook } from './desk.ts';

/** Longest side of a sheet that plays here. */
const MOST = 8192;

/** What a picture of the colour as it is shown has nothing of. */
const LEFT_OUT: ReadonlySet<string> = new Set<keyof BakeRecipe>(['pack', 'premultiply', 'linear']);

/** Whatever is made, it is a sheet that plays here: of the colour, as it is shown. */
function sheetOf(recipe: BakeRecipe): BakeRecipe {
  const rest = Object.entries(recipe).filter(([key]) => !LEFT_OUT.has(key));
  return {
    bleed: 1,
    ...(Object.fromEntries(rest) as unknown as BakeRecipe),
    format: 'sheet',
    outputs: ['color'],
    bits: 8,
  };
}

/** Plays the flipbook beside the live material, under the wipe of the Stage. */
export function PlayBeside({
  program,
  subject,
}: {
  readonly program: Program;
  readonly subject: BakedSubject;
}): ReactElement | null {
  const { desk, shown } = useSession();
  const flipbook = useStore(desk.flipbook);
  const beside = useStore(shown, (s) => (s.beside?.kind === 'flipbook' ? s.beside : undefined));
  const recipe = useMemo(() => sheetOf(subject.recipe), [subject.recipe]);
  const plan = useMemo(() => planOf(program, recipe), [program, recipe]);
  const file = typeof plan === 'string' ? undefined : plan.files[0];
  const large = file === undefined || Math.max(file.width, file.height) > MOST;
  const key = JSON.stringify([subject.text, recipe]);
  const show = (of: Flipbook, blended: boolean): void => {
    shown.setState({
      beside: {
        kind: 'flipbook',
        text: blended ? of.blended : of.held,
        label: `Flipbook of ${String(of.frames)}${blended ? ', mixed' : ''}`,
        blended,
        key,
      },
    });
  };
  const play = (blended: boolean): void => {
    const ready = flipbook.state === 'done' && beside?.key === key ? flipbook.result : undefined;
    if (ready) show(ready, blended);
    else if (typeof plan !== 'string')
      void desk.play({ ...subject, recipe }, plan.frames.length).then((made) => {
        if (made) show(made, blended);
      });
  };
  useEffect(
    () => () => {
      desk.stop('flipbook');
    },
    [desk],
  );
  if (flipbook.state === 'running')
    return (
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 0.5 }}>
        <LinearProgress
          variant="determinate"
          aria-label="Making the flipbook"
          value={flipbook.share * 100}
          sx={{ flex: 1, maxWidth: 200 }}
        />
        <Button
          onClick={() => {
            desk.stop('flipbook');
          }}
        >
          Stop
        </Button>
      </Box>
    );
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, mt: 0.5, flexWrap: 'wrap' }}>
      <Typography sx={{ color: 'text.secondary' }}>Next to the live material:</Typography>
      {([false, true] as const).map((blended) => (
        <Button
          key={String(blended)}
          variant="outlined"
          disabled={large}
          aria-pressed={beside?.blended === blended && beside.key === key}
          title={large ? 'This sheet is too large to preview' : 'Plays on the Stage, right of the divider'}
          sx={{ '&[aria-pressed=true]': { bgcolor: tokens.select } }}
          onClick={() => {
            play(blended);
          }}
        >
          {blended ? 'Frames blended' : 'Each frame held'}
        </Button>
      ))}
      {flipbook.state === 'failed' && (
        <Typography role="alert" sx={{ color: tokens.coral }}>
          {flipbook.message}
        </Typography>
      )}
    </Box>
  );
}
