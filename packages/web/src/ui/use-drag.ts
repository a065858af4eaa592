import { useDrag as useGesture } from '@use-gesture/react';
import type { PointerEvent } from 'react';

/** Where a drag is. */
export interface DragPoint {
  /** Pixels of the window. */
  readonly x: number;
  readonly y: number;
  /** Pixels from where it began. */
  readonly moved: readonly [number, number];
  readonly event: PointerEvent;
}

/** What a drag does; `of` is what its handlers were bound to, `kept` what its start returned. */
export interface Drag<AutosavedHistory, Of extends readonly unknown[]> {
  /** Undefined for no drag; where it is left out, every press begins one. */
  readonly start?: (at: DragPoint, ...of: Of) => AutosavedHistory | undefined;
  readonly move?: (at: DragPoint, kept: AutosavedHistory, ...of: Of) => void;
  /** Also where the pointer is lost; `cancelled` where the browser took it away. */
  readonly end?: (at: DragPoint, kept: AutosavedHistory, cancelled: boolean) => void;
}

/**
 * Drags of the main button or of a finger, from press to release, the pointer captured. Gives the handlers to spread on
 * an element, bound to what it stands for. Keys are each control's own.
 */
export function useDrag<AutosavedHistory = true, Of extends readonly unknown[] = []>(
  drag: Drag<AutosavedHistory, Of>,
  /** Sees presses before what is inside, and before listeners of the element itself. */
  { first: capture = false } = {},
): (...of: Of) => object {
  return useGesture<PointerEvent>(
    ({ first, last, xy: [x, y], movement, event, memo, canceled, args }) => {
      const at: DragPoint = { x, y, moved: movement, event };
      const of = args as Of;
      const kept = (!first ? memo : drag.start ? drag.start(at, ...of) : true) as AutosavedHistory | undefined;
      if (kept === undefined) return undefined;
      if (last) drag.end?.(at, kept, canceled || event.type === 'pointercancel');
      else if (!first) drag.move?.(at, kept, ...of);
      return kept;
    },
    { pointer: { keys: false }, eventOptions: { capture } },
  );
}

/** A drag that does the same where it is pressed as wherever it comes. */
export const useFollow = (follow: (at: DragPoint) => void, end: () => void): (() => object) =>
  useDrag({
    start: (at) => {
      follow(at);
      return true;
    },
    move: follow,
    end,
  });

/** Where a drag is on an element: pixels from its upper left corner. */
export function pixelsOn(element: Element, { x, y }: Pick<DragPoint, 'x' | 'y'>): readonly [number, number] {
  const { left, top } = element.getBoundingClientRect();
  return [x - left, y - top];
}

/** The same in parts of the element's width and height. */
export function partsOn(element: Element, { x, y }: Pick<DragPoint, 'x' | 'y'>): readonly [number, number] {
  const { left, top, width, height } = element.getBoundingClientRect();
  return [(x - left) / width, (y - top) / height];
}
