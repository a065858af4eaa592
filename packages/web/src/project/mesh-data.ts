import { shapeMesh, SHAPES, type MeshData, type ShapeName, type Vector } from '@estela/core';
import { meshAddress, type StoredMesh } from '../api/client.ts';
import { meshFiles } from '../workers/meshes.ts';

const loaded = new Map<string, Promise<MeshData>>();
/** Most meshes that are kept decoded. */
const KEPT = 40;

/** A mesh of a project, decoded; the same content is read once. */
export function meshData(mesh: StoredMesh): Promise<MeshData> {
  const known = loaded.get(mesh.hash);
  if (known) return known;
  const reading = (async () => {
    const response = await fetch(meshAddress(mesh));
    if (!response.ok) throw new Error(`The mesh ${mesh.name} cannot be read.`);
    return (await meshFiles().read('mesh.glb', new Uint8Array(await response.arrayBuffer()), new Map())).mesh;
  })();
  reading.catch(() => loaded.delete(mesh.hash));
  loaded.set(mesh.hash, reading);
  const [oldest] = loaded.keys();
  if (loaded.size > KEPT && oldest !== undefined) loaded.delete(oldest);
  return reading;
}

/** All shapes, in the order that they are offered in. */
export const SHAPE_NAMES = Object.keys(SHAPES) as ShapeName[];
export const isShape = (name: string): name is ShapeName => Object.hasOwn(SHAPES, name);

const shapes = new Map<string, MeshData>();
/** A shape with so many quads across, or what suits it; made once. */
export function shapeData(name: ShapeName, subdivisions?: number | null): MeshData {
  const key = `${name} ${String(subdivisions ?? '')}`;
  let mesh = shapes.get(key);
  if (!mesh) {
    if (shapes.size > KEPT) shapes.clear();
    shapes.set(key, (mesh = shapeMesh(name, subdivisions ?? undefined)));
  }
  return mesh;
}

/** The middle of a mesh's box, the box's sides, and how far its corners are from the middle. */
export function extentOf({ positions }: MeshData): {
  readonly middle: Vector;
  readonly size: Vector;
  readonly radius: number;
} {
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ] as [number[], number[]];
  for (let i = 0; i < positions.length; i++) {
    low[i % 3] = Math.min(low[i % 3]!, positions[i]!);
    high[i % 3] = Math.max(high[i % 3]!, positions[i]!);
  }
  const size = high.map((h, k) => h - low[k]!) as unknown as Vector;
  return { middle: high.map((h, k) => (h + low[k]!) / 2) as unknown as Vector, size, radius: Math.hypot(...size) / 2 };
}
