import type { StoreApi } from 'zustand/vanilla';
import { clockOf, type Clock } from './clock-store.ts';
import { derive, type Derived } from './look.ts';
import { createScene, type SceneState } from './scene-store.ts';

/** What it takes to show a material: all that follows from its text, its time, and how it is lit. */
export interface CompiledMaterial {
  readonly derived: Derived;
  readonly clock: Clock;
  readonly scene: StoreApi<SceneState>;
}

/** Compiles a text; its time is that of a clock that is there already, or of its own. */
export function compileMaterial(text: string, clock?: Clock): CompiledMaterial {
  const derived = derive(text);
  return { derived, clock: clock ?? clockOf(derived.program.loop), scene: createScene() };
}
