import { Box } from '@mui/material';
import { useRef, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { material } from '../../workers/material.ts';
import { useDrawn } from '../../viewport/use-drawn.ts';
import { useSession } from '../session.ts';

const SIZE = 64;

/** Half of each of two pictures. */
function onion(a: Uint8ClampedArray, b: Uint8ClampedArray): Uint8ClampedArray<ArrayBuffer> {
  return Uint8ClampedArray.from(a, (v, i) => (i % 4 === 3 ? Math.max(v, b[i]!) : (v + b[i]!) / 2));
}

/** How far two pictures are apart, four times as bright. */
function difference(a: Uint8ClampedArray, b: Uint8ClampedArray): Uint8ClampedArray<ArrayBuffer> {
  return Uint8ClampedArray.from(a, (v, i) =>
    i % 4 === 3 ? 255 : Math.abs(v * (a[i - (i % 4) + 3]! / 255) - b[i]! * (b[i - (i % 4) + 3]! / 255)) * 4,
  );
}

/** The last and the first frames of the loop as they follow each other, with first over last, and their difference. */
export function FrameStrip(): ReactElement {
  const { clock, debounced, drawable } = useSession();
  const { frames: count, fps } = useStore(debounced, (s) => s.derived.program.loop);
  const canvases = useRef<(HTMLCanvasElement | null)[]>([]);
  const numbers = [count - 3, count - 2, count - 1, 0, 1, 2].map((f) => ((f % count) + count) % count);
  useDrawn(
    drawable,
    (subject) => material('draw').frames(subject, numbers, SIZE),
    numbers.join(),
    (all) => {
      const [last, first] = [all[2], all[3]];
      if (!last || !first) return;
      [...all, onion(last, first), difference(last, first)].forEach((data, i) => {
        canvases.current[i]
          ?.getContext('2d')
          ?.putImageData(new ImageData(new Uint8ClampedArray(data), SIZE, SIZE), 0, 0);
      });
    },
  );
  const picture = (i: number, label: string): ReactElement => (
    <Box
      component="canvas"
      width={SIZE}
      height={SIZE}
      role="img"
      aria-label={label}
      ref={(element: HTMLCanvasElement | null) => {
        canvases.current[i] = element;
      }}
      sx={{ width: '100%', aspectRatio: '1', display: 'block', bgcolor: tokens.pit }}
    />
  );
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        overflowY: 'auto',
        px: 0.75,
        pt: 0.5,
        lineHeight: '14px',
        display: 'grid',
        gridTemplateColumns: 'repeat(3, 1fr) 1px repeat(3, 1fr)',
        columnGap: '3px',
        rowGap: 0.25,
        alignContent: 'start',
        fontSize: 11,
        color: 'text.secondary',
      }}
    >
      {numbers.map((f, i) => (
        <Box key={i} sx={{ display: 'contents' }}>
          {i === 3 && <Box title="The loop point" sx={{ borderLeft: `1px dashed ${tokens.text}` }} />}
          <Box
            component="button"
            type="button"
            title={`Show frame ${String(f)}`}
            onClick={() => {
              clock.pause();
              clock.seek(f / fps);
            }}
            sx={{
              p: 0,
              border: 0,
              bgcolor: 'transparent',
              color: 'inherit',
              font: 'inherit',
              cursor: 'pointer',
              textAlign: 'left',
            }}
          >
            {picture(i, `Frame ${String(f)}`)}
            {f}
          </Box>
        </Box>
      ))}
      <Box
        sx={{ gridColumn: '1 / 4', display: 'grid', gridTemplateColumns: '34px 1fr', gap: 0.75, alignItems: 'center' }}
      >
        {picture(6, 'First frame over last frame')}
        first over last
      </Box>
      <Box
        sx={{ gridColumn: '5 / 8', display: 'grid', gridTemplateColumns: '34px 1fr', gap: 0.75, alignItems: 'center' }}
      >
        {picture(7, 'Difference between first and last frame')}
        difference x4
      </Box>
    </Box>
  );
}
