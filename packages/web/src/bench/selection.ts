import type { Program } from '@estela/core';
import { useStore } from 'zustand';
import type { StoreApi } from 'zustand/vanilla';
import { indexOfStep, nearestStep, type StepRef } from '../material/step-ref.ts';
import { useSession } from './session.ts';

/** Steps that are looked at. */
export interface Selection {
  /** What the card, the Stage's handles and the palette act on: the one that the cursor of the Score stands in. */
  readonly step: StepRef | undefined;
  /** Current settings of the Stage alone. */
  readonly alone: StepRef | undefined;
}
export type SelectionStore = StoreApi<Selection>;

/** Where the selected step stands in a program. */
export const selectedIn = (program: Program, { step }: Selection): number | undefined =>
  step && nearestStep(program, step);

/** What is shown alone, as long as the program has it. */
export const aloneIn = (program: Program, { alone }: Selection): StepRef | undefined =>
  alone && indexOfStep(program, alone) !== undefined ? alone : undefined;

/** Where the selected step stands in the text as it rests. */
export function useSelectedIndex(): number | undefined {
  const { selection, debounced } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  return useStore(selection, (s) => selectedIn(program, s));
}
