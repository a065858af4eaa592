import { SHAPES, type MeshData, type Shape, type ShapeName, type Vector } from '@estela/core';
import { useEffect, useMemo, useState } from 'react';
import { useStore } from 'zustand';
import { api, sentence, type Material } from '../api/client.ts';
import { extentOf, meshData, shapeData } from '../project/mesh-data.ts';
import { meshesOf } from '../project/meshes-store.ts';
import { sceneOf } from './set-scene.ts';
import { setsOf } from '../project/sets-store.ts';
import type { Scene } from '../material/lighting.ts';
import type { OwnMaterial } from './set-items.ts';
import { partsOfView, type ViewName } from './lens.ts';
import type { Orbit, CameraPose } from './orbit.ts';
import type { StageItem } from './stage-items.ts';

/** What the Stage's mesh view holds. */
export interface PlacedView {
  readonly items: readonly StageItem[];
  /** The one mesh of the view; undefined for a set, and while it loads. */
  readonly mesh: MeshData | undefined;
  /** A set's own light. */
  readonly scene: Scene | undefined;
  /** Where to look from at first: all of a ball, or a set's own view. */
  readonly stand: { readonly middle: Vector; readonly radius: number } | CameraPose | undefined;
  /** Why something is not there, or that it is on its way; empty where all is. */
  readonly message: string;
}
const EMPTY: PlacedView = { items: [], mesh: undefined, scene: undefined, stand: undefined, message: '' };

/** From where shapes, which are about a metre, are seen at first. */
export const USUAL: CameraPose = { from: [0.35, 0.25, 2.1], at: [0, 0, 0] };

const stands = new Map<ShapeName, CameraPose>();
/**
 * Where a shape of its own kind is seen from; the same each time, so that the view stays while the shape is only
 * divided anew.
 */
function standOf(name: ShapeName): CameraPose | undefined {
  const { seenFrom }: Shape = SHAPES[name];
  if (seenFrom && !stands.has(name)) stands.set(name, { from: seenFrom, at: [0, 0, 0] });
  return stands.get(name);
}

export function standAt(orbit: Orbit, stand: NonNullable<PlacedView['stand']>): void {
  if ('radius' in stand) orbit.frame(stand.middle, stand.radius);
  else orbit.stand(stand);
}

/**
 * The meshes of a view: a shape of so many quads across, a mesh of the project, or a set with all its materials, of
 * which `own` is as it is open. `project` is an id.
 */
export function usePlaced(
  view: ViewName,
  project: string,
  own: OwnMaterial | undefined,
  subdivisions: number | undefined,
): PlacedView {
  const parts = useMemo(() => partsOfView(view), [view]);
  const shape = useMemo(() => {
    if (parts.kind !== 'shape') return undefined;
    const mesh = shapeData(parts.name, subdivisions);
    return { ...EMPTY, items: [{ key: 'stage', mesh }], mesh, stand: standOf(parts.name) };
  }, [parts, subdivisions]);
  const stored = useStored(project, parts.kind === 'mesh' ? parts.id : undefined);
  const set = useSet(project, own, parts.kind === 'set' ? parts.id : undefined);
  return shape ?? stored ?? set ?? EMPTY;
}

function useStored(project: string, id: string | undefined): PlacedView | undefined {
  const store = meshesOf(project);
  const { status, meshes, message } = useStore(store);
  const stored = meshes.find((m) => m.id === id);
  const [read, setRead] = useState<{ readonly hash: string; readonly mesh?: MeshData; readonly problem?: string }>();
  useEffect(() => {
    if (!stored) return;
    let gone = false;
    meshData(stored).then(
      (mesh) => {
        if (!gone) setRead({ hash: stored.hash, mesh });
      },
      (error: unknown) => {
        if (!gone) setRead({ hash: stored.hash, problem: sentence(error) });
      },
    );
    return () => {
      gone = true;
    };
  }, [stored]);
  return useMemo(() => {
    if (id === undefined) return undefined;
    if (!stored)
      return {
        ...EMPTY,
        message:
          status === 'ready'
            ? 'This mesh was deleted. Select another one.'
            : status === 'failed'
              ? message
              : 'Opening the mesh ...',
      };
    const mesh = read?.mesh;
    if (!mesh) return { ...EMPTY, message: read?.problem ?? 'Opening the mesh ...' };
    return { ...EMPTY, items: [{ key: 'stage', mesh }], mesh, stand: extentOf(mesh) };
  }, [id, stored, status, message, read]);
}

function useSet(project: string, own: OwnMaterial | undefined, id: string | undefined): PlacedView | undefined {
  const { status, sets, message } = useStore(setsOf(project));
  const { meshes, status: meshStatus } = useStore(meshesOf(project));
  const [materials, setMaterials] = useState<readonly Material[]>();
  const set = sets.find((s) => s.id === id);
  const [placed, setPlaced] = useState<{
    readonly items: readonly StageItem[];
    readonly problems: readonly string[];
  }>();
  useEffect(() => {
    if (id === undefined) return undefined;
    const abort = new AbortController();
    api.materials(project, abort.signal).then(setMaterials, () => undefined);
    return () => {
      abort.abort();
    };
  }, [id, project]);
  useEffect(() => {
    if (!set || !materials || !own || meshStatus === 'loading') return undefined;
    let gone = false;
    void import('./set-items.ts')
      .then(({ placeSet }) => placeSet(set.items, meshes, materials, own))
      .then((found) => {
        if (!gone) setPlaced(found);
      });
    return () => {
      gone = true;
    };
  }, [set, meshes, meshStatus, materials, own]);
  const kept = set?.view;
  const stand = useMemo(() => (kept ? ({ from: kept.from, at: kept.at } as unknown as CameraPose) : undefined), [kept]);
  const scene = useMemo(() => set && sceneOf(set), [set]);
  return useMemo(() => {
    if (id === undefined) return undefined;
    if (!set)
      return {
        ...EMPTY,
        message:
          status === 'ready'
            ? 'This set was deleted. Select another one.'
            : status === 'failed'
              ? message
              : 'Opening the set ...',
      };
    return {
      ...EMPTY,
      items: placed?.items ?? [],
      scene,
      stand,
      message: placed ? placed.problems.join(' ') : 'Opening the set ...',
    };
  }, [id, set, status, message, placed, scene, stand]);
}
