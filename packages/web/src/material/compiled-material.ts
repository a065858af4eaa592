import type { StoreApi } from 'zustand/vanilla';
import { createClock, type Clock } from './clock-store.ts';
import { derive, type Derived } from './look.ts';
import { createScene, type SceneState } from './scene-store.ts';

/** What it takes to show a material: all that follows from its text, its time, and how it is lit. */
export interface CompiledMaterial {
  readonly derived: Derived;
  readonly clock: Clock;
  readonly scene: StoreApi<SceneState>;
}

/** The time of a loop: it begins to go on by itself, but for those who asked their system for less motion. */
export const clockOf = ({ seconds, fps }: { readonly seconds: number; readonly fps: number }): Clock =>
  createClock(seconds, fps, !matchMedia('(prefers-reduced-motion: reduce)').matches);

export function compileMaterial(text: string): CompiledMaterial {
  const derived = derive(text);
  return { derived, clock: clockOf(derived.program.loop), scene: createScene() };
}
