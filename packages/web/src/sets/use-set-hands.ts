import { IDENTITY, instancesOf, transformPoint, type Vector } from '@estela/core';
import { useRef, type PointerEvent } from 'react';
import type { SetBody, SetItem } from '../api/client.ts';
import type { Kept } from '../history/kept.ts';
import type { MeshViewHands } from '../viewport/MeshView.tsx';
import { extentOf } from '../project/mesh-data.ts';
import type { StageItem } from '../viewport/stage-items.ts';
import { withItem } from '../project/set-edits.ts';

export interface SetHands {
  readonly onPointerDown: (event: PointerEvent<HTMLElement>) => void;
  readonly onPointerMove: (event: PointerEvent<HTMLElement>) => void;
  readonly onPointerUp: (event: PointerEvent<HTMLElement>) => void;
}

const shares = (event: PointerEvent<HTMLElement>): readonly [number, number] => {
  const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
  return [(event.clientX - left) / width, (event.clientY - top) / height];
};

/**
 * Choosing a thing by a click, and moving the chosen one: over the floor, or with Shift upright. The view is turned
 * beside it.
 */
export function useSetHands(
  kept: Kept<SetBody>,
  hands: MeshViewHands | undefined,
  chosen: SetItem | undefined,
  choose: (id: string) => void,
): SetHands {
  const drag = useRef<{ readonly item: SetItem; readonly from: Vector }>(undefined);
  const pressed = useRef<readonly [number, number]>([0, 0]);
  const pick = (event: PointerEvent<HTMLElement>): string | undefined => {
    const things = hands?.controller.placed ?? [];
    const picked = hands?.orbit.pick(
      things.map(({ item, models }) => ({ mesh: item.mesh, models })),
      ...shares(event),
    );
    return picked && things[picked.index]?.item.key;
  };
  return {
    onPointerDown(event) {
      pressed.current = [event.clientX, event.clientY];
      if (event.button !== 0 || !hands || !chosen || pick(event) !== chosen.id) return;
      const from = hands.orbit.placeOn(chosen.position, event.shiftKey ? 'upright' : 'level', ...shares(event));
      if (!from) return;
      hands.orbit.enable(false);
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { item: chosen, from };
    },
    onPointerMove(event) {
      const at = drag.current;
      if (!at || !hands) return;
      const way = event.shiftKey ? 'upright' : 'level';
      const to = hands.orbit.placeOn(at.item.position, way, ...shares(event));
      if (!to) return;
      const round = (m: number): number => Math.round(Math.min(Math.max(m, -50), 50) * 100) / 100;
      const position = at.item.position.map((p, k) =>
        (way === 'level') === (k === 1) ? p : round(p + to[k]! - at.from[k]!),
      ) as unknown as Vector;
      kept.preview(withItem(kept.settled(), { ...at.item, position }));
    },
    onPointerUp(event) {
      hands?.orbit.enable(true);
      const wasDrag = drag.current !== undefined;
      drag.current = undefined;
      const still = Math.hypot(event.clientX - pressed.current[0], event.clientY - pressed.current[1]) < 4;
      if (wasDrag && !still) kept.commit('move');
      else if (wasDrag) kept.preview(undefined);
      const picked = still ? pick(event) : undefined;
      if (picked !== undefined) choose(picked);
    },
  };
}

/** A ball about all that stands there; undefined for nothing. */
export function ballAbout(
  items: readonly StageItem[],
): { readonly middle: Vector; readonly radius: number } | undefined {
  const balls = items
    .filter((i) => !i.film)
    .flatMap(({ mesh, placing }) => {
      const { middle, radius } = extentOf(mesh);
      return (placing ? instancesOf(placing) : [IDENTITY]).map((m) => ({
        middle: transformPoint(m, middle),
        radius: radius * (placing?.scale ?? 1),
      }));
    });
  if (balls.length === 0) return undefined;
  const middle = [0, 1, 2].map(
    (k) => balls.reduce((sum, b) => sum + b.middle[k]!, 0) / balls.length,
  ) as unknown as Vector;
  const away = (b: { readonly middle: Vector }): number =>
    Math.hypot(b.middle[0] - middle[0], b.middle[1] - middle[1], b.middle[2] - middle[2]);
  return { middle, radius: Math.max(...balls.map((b) => away(b) + b.radius)) };
}
