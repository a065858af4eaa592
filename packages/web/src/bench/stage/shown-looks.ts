import { settingValues } from '@estela/core';
import { derive, type Look } from '../../material/look.ts';
import { variantLook } from '../../material/look-variant.ts';
import type { Session } from '../session.ts';
import { stepLook } from '../../material/step-ref.ts';

let pinned: { readonly text: string; readonly look: Look } | undefined;
const lookOf = (text: string): Look =>
  (pinned = pinned?.text === text ? pinned : { text, look: derive(text).look }).look;

/** What the Stage shows: the material with the shown variant's values, or one step of it; and what stands beside it. */
export function shownLooks({ document, shown, selection }: Session): {
  readonly main: Look;
  readonly beside: Look | undefined;
} {
  const { look } = document.getState();
  const { variant, beside, linked } = shown.getState();
  const { alone: step } = selection.getState();
  const whole = variantLook(look, variant);
  const alone = (of: Look): Look => (step && stepLook(of, step)) ?? of;
  if (!beside) return { main: alone(whole), beside: undefined };
  if (beside.kind === 'flipbook') return { main: whole, beside: lookOf(beside.text) };
  if (beside.kind === 'revision') return { main: alone(whole), beside: alone(lookOf(beside.text)) };
  const left = settingValues(look.program, variant);
  const over = new Map(
    [...linked]
      .flatMap((name) => [
        [name, left.dials.get(name) ?? (left.switches.has(name) ? [Number(left.switches.get(name))] : [])] as const,
      ])
      .filter(([, v]) => v.length > 0),
  );
  return { main: alone(whole), beside: alone(variantLook(look, beside.name, over)) };
}
