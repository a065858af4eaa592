import { useEffect, useRef, type ReactElement } from 'react';
import type { Material, StoredMesh, StoredSet } from '../api/client.ts';
import { createClock } from '../material/clock-store.ts';
import { seenFrom, type CameraPose } from '../viewport/orbit.ts';
import { StageController } from '../viewport/stage-controller.ts';
import { USUAL } from '../viewport/use-placed.ts';
import type { SourcesStore } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import { placeSet } from '../viewport/set-items.ts';
import { sceneOf, standpointOf } from '../viewport/set-scene.ts';

/** Milliseconds without another picture after which a set is taken to be all there, and the most that are waited. */
const QUIET = 500;
const PATIENCE = 8000;

/** Draws still pictures of sets into canvases, by their ids, one after the other: on one Stage out of sight. */
export function SetPainter({
  sets,
  meshes,
  materials,
  sources,
  targets,
}: {
  readonly sets: readonly StoredSet[];
  readonly meshes: readonly StoredMesh[];
  readonly materials: readonly Material[];
  readonly sources: SourcesStore;
  readonly targets: ReadonlyMap<string, HTMLCanvasElement>;
}): ReactElement {
  const stage = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const canvas = stage.current;
    if (!canvas) return undefined;
    let gone = false;
    let [view, pictured]: [CameraPose, number] = [USUAL, 0];
    let target: HTMLCanvasElement | undefined;
    const ignore = (): void => undefined;
    const controller = new StageController(
      canvas,
      createClock(1, 30, false),
      supplyOf(() => sources.getState().sources),
      {
        failed: ignore,
        lost: ignore,
        drawn: ignore,
        pictured: () => {
          pictured = performance.now();
          if (!target) return;
          [target.width, target.height] = [canvas.width, canvas.height];
          target.getContext('2d')?.drawImage(canvas, 0, 0);
        },
      },
      (aspect) => seenFrom(view, aspect),
    );
    const quiet = async (): Promise<void> => {
      const start = performance.now();
      pictured = 0;
      for (
        let now = start;
        now - start < PATIENCE && (pictured === 0 || now - pictured < QUIET);
        now = performance.now()
      )
        await new Promise((done) => setTimeout(done, 100));
    };
    const paint = async (): Promise<void> => {
      for (const set of sets) {
        const { items } = await placeSet(set.items, meshes, materials);
        if (gone) return;
        view = standpointOf(set) ?? USUAL;
        target = undefined;
        controller.setScene(sceneOf(set));
        controller.setView({ kind: 'mesh', items });
        target = targets.get(set.id);
        await quiet();
      }
    };
    void paint();
    return () => {
      gone = true;
      controller.dispose();
    };
  }, [sets, meshes, materials, sources, targets]);
  return (
    <canvas
      ref={stage}
      aria-hidden="true"
      style={{ position: 'fixed', left: -2000, top: 0, width: 320, height: 180 }}
    />
  );
}
