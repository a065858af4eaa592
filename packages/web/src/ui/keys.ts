import { useEffect, useEffectEvent } from 'react';
import { createStore } from 'zustand/vanilla';
import { recall, remember } from './memory.ts';

/** One press: a key by `KeyboardEvent.key`, letters small. What is held with it must be held, and nothing else. */
export interface Press {
  readonly key: string;
  /** Ctrl, or Cmd. */
  readonly ctrl?: boolean;
  readonly alt?: boolean;
  /** Needed where it is true, not wanted where it is false; else it makes no difference. */
  readonly shift?: boolean;
}

/** What a key does, or the hand: a row of the help, and what acts where the whole page listens for it. */
export interface Shortcut {
  /** As the help shows it: `, and .`. */
  readonly shown: string;
  readonly does: string;
  readonly presses?: readonly (Press & {
    /** Gives false where there is nothing to do: the key is left to others. */
    readonly act: () => unknown;
  })[];
  /** Acts where text is written, too. */
  readonly inFields?: true;
}
export interface KeyGroup {
  readonly group: string;
  readonly keys: readonly Shortcut[];
}

const KEY = 'estela.keys';
/** Whether keys act that are pressed without Ctrl or Alt; kept in this browser. */
export const singleKeys = createStore<{ readonly on: boolean }>(() => ({
  on: recall<{ on: boolean }>(KEY).on !== false,
}));
singleKeys.subscribe(({ on }) => {
  remember(KEY, { on });
});

/** Fields with an undo of their own; sliders and boxes to tick have none. */
const FIELDS = 'input:not([type=range], [type=checkbox], [type=radio]), textarea';
/** What takes single keys for itself. */
const TAKES_KEYS =
  'input, textarea, select, [contenteditable=true], [role="slider"], [role="menu"], [role="listbox"], [role="dialog"]';
/** What the space bar presses. */
const PRESSED = 'button, summary, [role="button"], [role="tab"], [role="radio"]';

const isHeld = (event: KeyboardEvent, { key, ctrl = false, alt = false, shift }: Press): boolean =>
  // With Alt some keyboards write other characters on the digits.
  ((event.key.length === 1 ? event.key.toLowerCase() : event.key) === key || (alt && event.code === `Digit${key}`)) &&
  (event.ctrlKey || event.metaKey) === ctrl &&
  event.altKey === alt &&
  (shift === undefined || event.shiftKey === shift);

/** Whether a key pressed at an element is the page's to act on. */
function isFree(event: KeyboardEvent, { ctrl = false, alt = false, key }: Press, inFields: boolean): boolean {
  if (!(event.target instanceof Element)) return true;
  if (ctrl || alt) return inFields || !event.target.matches(FIELDS);
  if (key === 'Escape') return true;
  return (
    singleKeys.getState().on &&
    !event.target.closest(TAKES_KEYS) &&
    !(key === ' ' && event.target.closest(PRESSED) !== null)
  );
}

/** Lets keys act wherever the focus is, but where something takes them for itself. */
export function useKeys(groups: readonly KeyGroup[]): void {
  const pressed = useEffectEvent((event: KeyboardEvent): void => {
    if (event.defaultPrevented) return;
    for (const { keys } of groups)
      for (const { presses = [], inFields = false } of keys) {
        const press = presses.find((p) => isHeld(event, p));
        if (!press || !isFree(event, press, inFields) || press.act() === false) continue;
        event.preventDefault();
        return;
      }
  });
  useEffect(() => {
    window.addEventListener('keydown', pressed);
    return () => {
      window.removeEventListener('keydown', pressed);
    };
  }, []);
}

/**
 * Undo and redo as rows of the help. They take their keys even where nothing is left to undo: the browser's own undo
 * would change the text that was typed last, wherever the focus is.
 */
export function undoKeys(undo: () => unknown, redo: () => unknown, what: string): readonly Shortcut[] {
  const taken = (act: () => unknown) => (): void => {
    act();
  };
  return [
    { shown: 'Ctrl+Z', does: `undo: ${what}`, presses: [{ key: 'z', ctrl: true, shift: false, act: taken(undo) }] },
    {
      shown: 'Ctrl+Shift+Z',
      does: 'redo',
      presses: [
        { key: 'z', ctrl: true, shift: true, act: taken(redo) },
        { key: 'y', ctrl: true, act: taken(redo) },
      ],
    },
  ];
}
