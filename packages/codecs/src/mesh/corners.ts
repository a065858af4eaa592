import { TRIANGLE_LIMIT, type MeshData } from '@estela/core';
import { brokenMesh, noTriangles, tooManyTriangles } from './limits.ts';
import { flaws } from '../wording.ts';

/** Triangles as files hand them over: every corner with values of its own. UVs with v down; colours linear. */
export interface Corners {
  readonly positions: ArrayLike<number>;
  readonly normals?: ArrayLike<number> | undefined;
  readonly uvs?: ArrayLike<number> | undefined;
  /** Three or four numbers a corner. */
  readonly colors?: { readonly values: ArrayLike<number>; readonly width: 3 | 4 } | undefined;
}

/** Largest number of a vertex; squares of sums of such are still numbers on a graphics card. */
const FARTHEST = 1e9;

/**
 * One mesh of several parts; corners that are the same in all they have become one vertex. Where a part has no normals
 * each triangle gets its own.
 */
export function meshOfCorners(
  parts: readonly Corners[],
  type: string,
): { readonly mesh: MeshData; readonly hasUvs: boolean } {
  const count = parts.reduce((sum, p) => sum + Math.floor(p.positions.length / 9), 0);
  if (count === 0) throw noTriangles();
  if (count > TRIANGLE_LIMIT) throw tooManyTriangles(count);
  const colored = parts.some((p) => p.colors);
  const known = new Map<string, number>();
  const values: number[] = [];
  const width = colored ? 12 : 8;
  const indices: number[] = [];
  for (const { positions, normals, uvs, colors } of parts) {
    for (let t = 0; t < Math.floor(positions.length / 9); t++) {
      const flat = normals ? undefined : faceNormal(positions, t * 9);
      for (let c = t * 3; c < t * 3 + 3; c++) {
        const vertex = [
          positions[c * 3]!,
          positions[c * 3 + 1]!,
          positions[c * 3 + 2]!,
          ...(flat ?? unit(normals!, c * 3)),
          uvs?.[c * 2] ?? 0,
          uvs?.[c * 2 + 1] ?? 0,
        ];
        if (colored)
          for (let k = 0; k < 4; k++)
            vertex.push(colors && k < colors.width ? (colors.values[c * colors.width + k] ?? 1) : 1);
        if (!vertex.every(Number.isFinite)) throw brokenMesh(type, flaws.wrongVertex);
        if (vertex.some((x) => Math.abs(x) > FARTHEST)) throw brokenMesh(type, flaws.coordinateTooLarge);
        const key = vertex.map((x) => Math.fround(x)).join(' ');
        let index = known.get(key);
        if (index === undefined) {
          known.set(key, (index = known.size));
          for (const x of vertex) values.push(x);
        }
        indices.push(index);
      }
    }
  }
  const pick = (from: number, length: number): Float32Array =>
    Float32Array.from(
      { length: known.size * length },
      (_, i) => values[Math.floor(i / length) * width + from + (i % length)]!,
    );
  const mesh: MeshData = {
    positions: pick(0, 3),
    normals: pick(3, 3),
    uvs: pick(6, 2),
    ...(colored ? { colors: pick(8, 4) } : {}),
    indices: Uint32Array.from(indices),
  };
  return { mesh, hasUvs: hasUvs(mesh) };
}

/** Whether UVs say where anything lies: all at one place is the same as none. */
export const hasUvs = ({ uvs }: MeshData): boolean => uvs.some((x, i) => Math.abs(x - uvs[i % 2]!) > 1e-6);

function unit(of: ArrayLike<number>, at: number): number[] {
  const [x, y, z] = [of[at]!, of[at + 1]!, of[at + 2]!];
  const length = Math.hypot(x, y, z);
  return length > 1e-9 ? [x / length, y / length, z / length] : [0, 1, 0];
}

function faceNormal(p: ArrayLike<number>, at: number): number[] {
  const [e, f] = [3, 6].map((by) => [0, 1, 2].map((k) => p[at + by + k]! - p[at + k]!)) as [number[], number[]];
  return unit([e[1]! * f[2]! - e[2]! * f[1]!, e[2]! * f[0]! - e[0]! * f[2]!, e[0]! * f[1]! - e[1]! * f[0]!], 0);
}
