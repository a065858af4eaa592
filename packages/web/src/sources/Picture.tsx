import { Box } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import { refOf } from '../project/supply.ts';

/** Small squares under what can be seen through. */
export const CLEAR_GROUND = `repeating-conic-gradient(${tokens.row} 0 25%, ${tokens.raise} 0 50%) 0 0 / 16px 16px`;

/** Pictures that were made once, by content; the newest few hundred. */
const made = new Map<string, ImageBitmap>();

/** A source's picture in a square, made when it comes into view. */
export function Picture({ source, size }: { readonly source: Source; readonly size: number }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState(false);
  const { hash } = source;
  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    let gone = false;
    const draw = (bitmap: ImageBitmap): void => {
      if (gone) return;
      const scale = Math.min(element.width / bitmap.width, element.height / bitmap.height);
      const [width, height] = [Math.max(1, bitmap.width * scale), Math.max(1, bitmap.height * scale)];
      const context = element.getContext('2d');
      context?.clearRect(0, 0, element.width, element.height);
      if (context) context.imageSmoothingEnabled = scale < 2;
      context?.drawImage(bitmap, (element.width - width) / 2, (element.height - height) / 2, width, height);
    };
    const known = made.get(hash);
    if (known) {
      draw(known);
      return undefined;
    }
    const observer = new IntersectionObserver(([entry]) => {
      if (!entry?.isIntersecting) return;
      observer.disconnect();
      // A path map keeps a number in its alpha, and is looked at without.
      const look = source.recipe?.kind === 'path' ? 'rgb' : 'all';
      pixels('sources')
        .show(refOf(source), look, 2 * size)
        .then(
          (bitmap) => {
            made.set(hash, bitmap);
            if (made.size > 400) made.delete(made.keys().next().value ?? '');
            draw(bitmap);
          },
          () => {
            setFailed(true);
          },
        );
    });
    observer.observe(element);
    return () => {
      gone = true;
      observer.disconnect();
    };
    // The content alone decides the picture.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [hash, size]);
  return (
    <Box sx={{ position: 'relative', background: CLEAR_GROUND, lineHeight: 0 }}>
      <Box
        component="canvas"
        ref={canvas}
        width={size}
        height={size}
        aria-hidden="true"
        sx={{ width: '100%', aspectRatio: '1' }}
      />
      {failed && (
        <Box
          sx={{
            position: 'absolute',
            inset: 0,
            display: 'grid',
            placeItems: 'center',
            p: 1,
            lineHeight: '18px',
            textAlign: 'center',
            bgcolor: tokens.row,
            color: tokens.coral,
          }}
        >
          cannot be decoded
        </Box>
      )}
    </Box>
  );
}
