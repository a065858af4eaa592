import { Box } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { CLEAR_GROUND, drawSource } from './source-picture.ts';

/** A source's picture in a square, made when it comes into view. */
export function SourcePicture({ source, size }: { readonly source: Source; readonly size: number }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState(false);
  const { hash } = source;
  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    const observer = new IntersectionObserver(([entry]) => {
      if (!entry?.isIntersecting) return;
      observer.disconnect();
      drawSource(element, source).catch(() => {
        setFailed(true);
      });
    });
    observer.observe(element);
    return () => {
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
