import { emitShader, GLSL, shownColor, type Program } from '@estela/core';
import type { StoreApi } from 'zustand/vanilla';
import type { Look } from '../material/look.ts';

/**
 * The step that the Stage shows alone: its name, and which of the lines of that name. It stays found while lines come
 * and go around it.
 */
export interface Solo {
  readonly kind: 'step' | 'out';
  readonly name: string;
  readonly nth: number;
}
export interface SoloState {
  readonly step: Solo | undefined;
}
export type SoloStore = StoreApi<SoloState>;

export function soloOf(program: Program, index: number): Solo | undefined {
  const step = program.steps[index];
  if (!step) return undefined;
  const { kind, name } = step;
  return { kind, name, nth: program.steps.slice(0, index).filter((s) => s.kind === kind && s.name === name).length };
}

/** Where the step is now; undefined where it is gone. */
export function indexOfSolo(program: Program, { kind, name, nth }: Solo): number | undefined {
  return program.steps.flatMap((s, i) => (s.kind === kind && s.name === name ? [i] : []))[nth];
}

/** The step above or below, past lines that are off; the same at the ends. */
export function nextSolo(program: Program, solo: Solo, by: 1 | -1): Solo {
  const index = indexOfSolo(program, solo) ?? 0;
  for (let i = index + by; i >= 0 && i < program.steps.length; i += by) {
    const step = program.steps[i];
    if (step && !step.off) return soloOf(program, i) ?? solo;
  }
  return solo;
}

/** A material's look with one step in place of all it puts out. */
export function soloLook(look: Look, solo: Solo): Look | undefined {
  const index = indexOfSolo(look.program, solo);
  if (index === undefined) return undefined;
  const glsl = emitShader(GLSL, look.graph, new Map([['color', shownColor(look.graph, index)]]));
  return {
    ...look,
    program: { ...look.program, surface: { lit: false, mode: 'blend', twoSided: look.program.surface.twoSided } },
    glsl,
  };
}
