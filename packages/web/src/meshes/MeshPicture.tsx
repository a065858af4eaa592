import { cross, type MeshData, type Vector } from '@estela/core';
import { Box } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { StoredMesh } from '../api/client.ts';
import { tokens } from '../app/tokens.ts';
import { extentOf, meshData } from './mesh-data.ts';

/** Most triangles of a picture: of a finer mesh every so many are drawn. */
const MOST = 20_000;
/** From the right, above and before. */
const RIGHT: Vector = [0.83, 0, -0.56];
const BACK: Vector = [0.5, 0.45, 0.74];
const UP = cross(BACK, RIGHT);
const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Draws a mesh in greys, far faces first. */
function draw(context: CanvasRenderingContext2D, mesh: MeshData, size: number): void {
  const { middle, radius } = extentOf(mesh);
  const { positions, indices } = mesh;
  const at = (v: number): Vector => [positions[v * 3]! - middle[0], positions[v * 3 + 1]! - middle[1], positions[v * 3 + 2]! - middle[2]];
  const every = Math.max(1, Math.ceil(indices.length / 3 / MOST));
  const triangles: { depth: number; shade: number; corners: (readonly [number, number])[] }[] = [];
  const scale = (size * 0.46) / Math.max(radius, 1e-9);
  for (let t = 0; t < indices.length / 3; t += every) {
    const [a, b, c] = [0, 1, 2].map((k) => at(indices[t * 3 + k]!)) as [Vector, Vector, Vector];
    const n = cross([b[0] - a[0], b[1] - a[1], b[2] - a[2]], [c[0] - a[0], c[1] - a[1], c[2] - a[2]]);
    const long = Math.hypot(...n);
    if (long === 0) continue;
    triangles.push({
      depth: dot(a, BACK) + dot(b, BACK) + dot(c, BACK),
      shade: Math.abs(dot(n, BACK)) / long,
      corners: [a, b, c].map((p) => [size / 2 + dot(p, RIGHT) * scale, size / 2 - dot(p, UP) * scale]),
    });
  }
  context.clearRect(0, 0, size, size);
  for (const { shade, corners } of triangles.sort((a, b) => a.depth - b.depth)) {
    const grey = Math.round(54 + 130 * shade);
    context.fillStyle = context.strokeStyle = `rgb(${String(grey)} ${String(grey)} ${String(grey - 4)})`;
    context.beginPath();
    for (const [x, y] of corners) context.lineTo(x, y);
    context.closePath();
    context.fill();
    context.stroke();
  }
}

/** A mesh as a small picture. */
export function MeshPicture({ mesh, size }: { readonly mesh: StoredMesh; readonly size: number }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let gone = false;
    meshData(mesh).then(
      (data) => {
        const context = canvas.current?.getContext('2d');
        if (!gone && context) draw(context, data, size * 2);
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
        <Box component="canvas" ref={canvas} width={size * 2} height={size * 2} role="img" aria-label={mesh.name} sx={{ width: size, height: size }} />
      )}
    </Box>
  );
}
