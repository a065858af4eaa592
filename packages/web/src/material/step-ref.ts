import { emitShader, GLSL, shownColor, type Program } from '@estela/core';
import type { Look } from './look.ts';

/**
 * A step of a text that changes: its name, and which of the lines of that name. It stays found while lines come and go
 * around it.
 */
export interface StepRef {
  readonly kind: 'step' | 'out';
  readonly name: string;
  readonly nth: number;
  /** Where it stood when it was referred to: for a moment in which its name is typed anew. */
  readonly index: number;
}

export function stepRefOf(program: Program, index: number): StepRef | undefined {
  const step = program.steps[index];
  if (!step) return undefined;
  const { kind, name } = step;
  const nth = program.steps.slice(0, index).filter((s) => s.kind === kind && s.name === name).length;
  return { kind, name, nth, index };
}

/** Where the step is in a program; undefined where it is gone. */
export function indexOfStep(program: Program, { kind, name, nth }: Omit<StepRef, 'index'>): number | undefined {
  return program.steps.flatMap((s, i) => (s.kind === kind && s.name === name ? [i] : []))[nth];
}

/** The same; where its name is gone, what stands in its place. */
export function nearestStep(program: Program, ref: StepRef): number | undefined {
  return indexOfStep(program, ref) ?? (program.steps[ref.index]?.kind === ref.kind ? ref.index : undefined);
}

export const isSameStep = (a: StepRef | undefined, b: StepRef | undefined): boolean =>
  a?.kind === b?.kind && a?.name === b?.name && a?.nth === b?.nth;

/** The step above or below, past lines that are off; the same at the ends. */
export function nextStep(program: Program, ref: StepRef, by: 1 | -1): StepRef {
  const index = indexOfStep(program, ref) ?? 0;
  for (let i = index + by; i >= 0 && i < program.steps.length; i += by) {
    const step = program.steps[i];
    if (step && !step.off) return stepRefOf(program, i) ?? ref;
  }
  return ref;
}

/** A material's look with one step in place of all it puts out. */
export function stepLook(look: Look, ref: StepRef): Look | undefined {
  const index = indexOfStep(look.program, ref);
  if (index === undefined) return undefined;
  const glsl = emitShader(GLSL, look.graph, new Map([['color', shownColor(look.graph, index)]]));
  return {
    ...look,
    program: { ...look.program, surface: { lit: false, mode: 'blend', twoSided: look.program.surface.twoSided } },
    glsl,
  };
}
