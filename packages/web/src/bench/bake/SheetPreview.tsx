import { type BakePlan } from '@estela/core';
import { Box, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { sentence } from '../../api/client.ts';
import { tokens } from '../../ui/tokens.ts';
import { Baking } from '../../workers/baking.ts';
import type { BakedSubject } from '../../workers/baking.worker.ts';
import { factsOf } from './facts.ts';

/** Most frames that are drawn, and how many are asked for at once: others have their turn in between. */
const [MOST, AT_ONCE] = [256, 8];
/** Milliseconds that settings must rest before they are drawn. */
const REST = 250;

/** The frames as they will stand, small, and what comes of them. */
export function SheetPreview({
  plan,
  subject,
}: {
  readonly plan: BakePlan;
  readonly subject: BakedSubject;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [problem, setProblem] = useState('');
  const [baking] = useState(() => new Baking('preview'));
  useEffect(
    () => () => {
      baking.close();
    },
    [baking],
  );
  const { recipe, frames } = plan;
  const sheet = recipe.format === 'sheet';
  const columns = sheet ? plan.pictures[0]!.columns : Math.ceil(Math.sqrt(Math.min(frames.length, MOST) * 1.6));
  const rows = Math.ceil(Math.min(frames.length, MOST) / columns);
  const [width, height] = recipe.size;
  // The grid fits into this, a frame at least some pixels.
  const scale = Math.min(320 / (columns * width), 180 / (rows * height), 1);
  const cell: readonly [number, number] = [
    Math.max(4, Math.round(width * scale)),
    Math.max(4, Math.round(height * scale)),
  ];
  const shown = Math.min(frames.length, MOST);
  const key = JSON.stringify([subject.text, recipe, [...subject.pictures.values()].map((p) => p.hash)]);
  useEffect(() => {
    let gone = false;
    const draw = async (): Promise<void> => {
      const context = canvas.current?.getContext('2d');
      if (!context) return;
      setProblem('');
      for (let first = 0; first < shown; first += AT_ONCE) {
        const places = Array.from({ length: Math.min(AT_ONCE, shown - first) }, (_, i) => first + i);
        const drawn = await baking.run((worker) => worker.frames(subject, places, cell));
        if (gone || !drawn) return;
        drawn.forEach((data, i) => {
          const place = first + i;
          const at = [(place % columns) * (cell[0] + 1), Math.floor(place / columns) * (cell[1] + 1)] as const;
          context.putImageData(new ImageData(data, ...cell), ...at);
        });
      }
    };
    const timer = setTimeout(() => {
      draw().catch((error: unknown) => {
        if (!gone) setProblem(sentence(error));
      });
    }, REST);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
    // All that is drawn is in the key.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [key, baking]);
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box component="ul" sx={{ m: 0, mb: 0.75, p: 0, listStyle: 'none', color: 'text.secondary' }}>
        {factsOf(plan).map((fact) => (
          <li key={fact}>{fact}</li>
        ))}
        {frames.length > MOST && <li>The first {MOST} are shown.</li>}
      </Box>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${String(frames.length)} frames, ${String(columns)} across`}
        width={columns * (cell[0] + 1) - 1}
        height={rows * (cell[1] + 1) - 1}
        style={{ display: 'block', maxWidth: '100%', backgroundColor: tokens.pit }}
      />
      {problem !== '' && (
        <Typography role="alert" sx={{ color: tokens.coral }}>
          {problem}
        </Typography>
      )}
    </Box>
  );
}
