import { Box } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { StoredMesh } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { meshPicture } from '../gl/mesh-picture.ts';
import { extentOf, meshData } from './mesh-data.ts';

/** A mesh as a small picture. */
export function MeshPicture({ mesh, size }: { readonly mesh: StoredMesh; readonly size: number }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let gone = false;
    meshData(mesh).then(
      (data) => {
        const context = canvas.current?.getContext('bitmaprenderer');
        if (gone || !context) return;
        const { middle, radius } = extentOf(data);
        context.transferFromImageBitmap(meshPicture(data, middle, radius, size * 2) ?? null);
      },
      () => {
        if (!gone) setFailed(true);
      },
    );
    return () => {
      gone = true;
    };
  }, [mesh, size]);
  return (
    <Box sx={{ height: size, bgcolor: tokens.pit, display: 'grid', placeItems: 'center' }}>
      {failed ? (
        <Box sx={{ color: tokens.coral }}>cannot be read</Box>
      ) : (
        <Box
          component="canvas"
          ref={canvas}
          width={size * 2}
          height={size * 2}
          role="img"
          aria-label={mesh.name}
          sx={{ width: size, height: size }}
        />
      )}
    </Box>
  );
}
