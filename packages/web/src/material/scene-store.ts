import { createStore, type StoreApi } from 'zustand/vanilla';
import { recall, remember } from '../ui/memory.ts';
import { BACKDROPS, type Scene } from './lighting.ts';
import { ENVIRONMENTS } from '@estela/core';

export interface SceneState extends Scene {
  /** Quads across a shape; undefined for what suits it. */
  readonly subdivisions: number | undefined;
}

const KEY = 'estela.scene';
const START: SceneState = { environment: 'studio', backdrop: 'plain', exposure: 0, subdivisions: undefined };

/** How meshes are lit and what stands behind them; kept in this browser. */
export function createScene(): StoreApi<SceneState> {
  const kept = recall<Scene>(KEY);
  const known =
    kept.environment !== undefined &&
    Object.hasOwn(ENVIRONMENTS, kept.environment) &&
    kept.backdrop !== undefined &&
    Object.hasOwn(BACKDROPS, kept.backdrop);
  const store = createStore<SceneState>(() =>
    known && typeof kept.exposure === 'number' ? { ...START, ...kept } : START,
  );
  store.subscribe(({ environment, backdrop, exposure }) => {
    remember(KEY, { environment, backdrop, exposure });
  });
  return store;
}
