import type { Dial, Loop } from '@estela/core';

/** Takes a value in internal units to the text. While a hand is on a control, `drag` is true: all of it is one undo. */
export type SetValue = (value: readonly number[], drag: boolean) => void;

/** What a control needs to know of the dial, or other value, that it holds. */
export type Held = Pick<Dial, 'name' | 'type' | 'value' | 'low' | 'high' | 'step'>;

/** Factor from internal units to those a dial is shown in: turns to degrees, periods a loop to a second. */
export function shownPer(dial: Held, loop: Loop): number {
  return dial.type === 'angle' ? 360 : dial.type === 'rate' ? 1 / loop.seconds : 1;
}

/** What every control of a dial is given. */
export interface DialControl {
  readonly dial: Held;
  readonly loop: Loop;
  readonly set: SetValue;
  /** The hand has left the control. */
  readonly done: () => void;
}
