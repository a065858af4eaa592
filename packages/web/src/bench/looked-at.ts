import type { Program } from '@estela/core';
import { useEffect, useEffectEvent } from 'react';
import { useLocation, useSearchParams } from 'react-router';
import { withParameters } from '../ui/address.ts';
import { aloneIn, selectedIn } from './selection.ts';
import { TABS, useSession } from './session.ts';
import { indexOfStep, stepRefOf, type StepRef } from '../material/step-ref.ts';

/** What is looked at on the Bench, besides view and lens. */
export interface LookedAt {
  /** The selected step, and the one that the Stage shows alone. */
  readonly step: StepRef | undefined;
  readonly alone: StepRef | undefined;
  readonly variant: string | undefined;
}

/** A step as an address names it: `flow`, `out color`, and `flow 2` for the second line of that name. */
const wordsOf = ({ kind, name, nth }: StepRef): string =>
  `${kind === 'out' ? 'out ' : ''}${name}${nth > 0 ? ` ${String(nth + 1)}` : ''}`;

/** The step that an address names; undefined where the text has none such. */
function stepNamed(program: Program, words: string | null): StepRef | undefined {
  const found = /^(out )?(\S+?)(?: ([1-9]\d*))?$/.exec(words ?? '');
  if (!found) return undefined;
  const [, out, name = '', count = '1'] = found;
  const index = indexOfStep(program, { kind: out ? 'out' : 'step', name, nth: Number(count) - 1 });
  return index === undefined ? undefined : stepRefOf(program, index);
}

/** What an address says is looked at, as far as the text has it. */
export function readLookedAt(parameters: URLSearchParams, program: Program): LookedAt {
  const variant = parameters.get('variant') ?? undefined;
  return {
    step: stepNamed(program, parameters.get('step')),
    alone: stepNamed(program, parameters.get('alone')),
    variant: program.variants.some((v) => v.name === variant) ? variant : undefined,
  };
}

/** The same address with what is looked at now. */
export const withLookedAt = (parameters: URLSearchParams, { step, alone, variant }: LookedAt): URLSearchParams =>
  withParameters(parameters, { step: step && wordsOf(step), alone: alone && wordsOf(alone), variant });

/**
 * Milliseconds that it rests before the address follows: while typing it need not, and browsers allow few changes a
 * second.
 */
const REST = 400;

/** Selected step, step alone and variant stand in the address too, so that a link shows the same. */
export function useLookedAtAddress(): void {
  const { document, selection, shown, panel } = useSession();
  const [parameters, setParameters] = useSearchParams();
  const { pathname } = useLocation();
  const open = useEffectEvent(() => {
    const { derived, look } = document.getState();
    const { step, alone } = readLookedAt(parameters, derived.program);
    const { variant } = readLookedAt(parameters, look.program);
    if (step) selection.setState({ step });
    if (alone) selection.setState({ alone });
    if (variant !== undefined) shown.setState({ variant });
    const tab = TABS.find((kind) => kind === parameters.get('panel'));
    if (tab) panel.setState({ open: { kind: tab } });
  });
  const tell = useEffectEvent(() => {
    // Another view was gone to, and is being fetched: to set an address now would come back from it.
    if (window.location.pathname !== pathname) return;
    const { program } = document.getState().derived;
    const index = selectedIn(program, selection.getState());
    // As the browser has it: view and lens may have changed in this very moment.
    const before = new URLSearchParams(window.location.search);
    const after = withLookedAt(before, {
      step: index === undefined ? undefined : stepRefOf(program, index),
      alone: aloneIn(program, selection.getState()),
      variant: shown.getState().variant,
    });
    if (after.toString() !== before.toString()) setParameters(after, { replace: true });
  });
  useEffect(() => {
    open();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const later = (): void => {
      clearTimeout(timer);
      timer = setTimeout(tell, REST);
    };
    const ends = [selection.subscribe(later), shown.subscribe(later)];
    return () => {
      clearTimeout(timer);
      for (const end of ends) end();
    };
  }, [selection, shown]);
}
