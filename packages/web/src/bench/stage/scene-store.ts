import { createStore, type StoreApi } from 'zustand/vanilla';
import { BACKDROPS, ENVIRONMENTS, type Scene } from '../../gl/lighting.ts';

export interface SceneState extends Scene {
  /** Quads across a shape; undefined for what suits it. */
  readonly subdivisions: number | undefined;
}

const KEY = 'estela.scene';
const START: SceneState = { environment: 'studio', backdrop: 'plain', exposure: 0, subdivisions: undefined };

/** How meshes are lit and what stands behind them; kept in this browser. */
export function createScene(): StoreApi<SceneState> {
  let kept: Partial<SceneState> = {};
  try {
    kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<SceneState>;
  } catch {
    // What cannot be read is as if it had never been kept.
  }
  const known =
    kept.environment !== undefined && Object.hasOwn(ENVIRONMENTS, kept.environment) && kept.backdrop !== undefined && Object.hasOwn(BACKDROPS, kept.backdrop);
  const store = createStore<SceneState>(() => (known && typeof kept.exposure === 'number' ? { ...START, ...kept, subdivisions: undefined } : START));
  store.subscribe(({ environment, backdrop, exposure }) => {
    try {
      localStorage.setItem(KEY, JSON.stringify({ environment, backdrop, exposure }));
    } catch {
      // A browser that keeps nothing forgets it with the page.
    }
  });
  return store;
}
