import { IDENTITY, instancesOf, transformPoint, type Vector } from '@estela/core';
import type { SetBody, SetItem } from '../api/client.ts';
import type { AutosavedHistory } from '../history/autosaved-history.ts';
import type { MeshViewHands } from '../viewport/MeshView.tsx';
import { extentOf } from '../project/mesh-data.ts';
import type { StageItem } from '../viewport/stage-items.ts';
import { withItem } from '../project/set-edits.ts';
import { partsOn, useDrag, type DragPoint } from '../ui/use-drag.ts';

/**
 * Handlers for the view: a click chooses a thing, a drag moves the chosen one over the floor, or with Shift upright. The
 * view is turned beside it.
 */
export function useSetHands(
  kept: AutosavedHistory<SetBody>,
  hands: MeshViewHands | undefined,
  chosen: SetItem | undefined,
  choose: (id: string) => void,
): object {
  const pick = (on: Element, at: DragPoint): string | undefined => {
    const things = hands?.controller.placed ?? [];
    const picked = hands?.orbit.pick(
      things.map(({ item, models }) => ({ mesh: item.mesh, models })),
      ...partsOn(on, at),
    );
    return picked && things[picked.index]?.item.key;
  };
  interface Grip {
    readonly on: Element;
    /** Where it was taken, of the chosen thing. */
    readonly from?: { readonly item: SetItem; readonly point: Vector };
  }
  return useDrag<Grip>(
    {
      start: (at) => {
        const on = at.event.currentTarget;
        if (!hands || !chosen || pick(on, at) !== chosen.id) return { on };
        const plane = at.event.shiftKey ? 'upright' : 'level';
        const point = hands.orbit.placeOn(chosen.position, plane, ...partsOn(on, at));
        if (!point) return { on };
        hands.orbit.enable(false);
        return { on, from: { item: chosen, point } };
      },
      move: (at, { on, from }) => {
        if (!from || !hands) return;
        const plane = at.event.shiftKey ? 'upright' : 'level';
        const to = hands.orbit.placeOn(from.item.position, plane, ...partsOn(on, at));
        if (!to) return;
        const round = (m: number): number => Math.round(Math.min(Math.max(m, -50), 50) * 100) / 100;
        const position = from.item.position.map((p, k) =>
          (plane === 'level') === (k === 1) ? p : round(p + to[k]! - from.point[k]!),
        ) as unknown as Vector;
        kept.preview(withItem(kept.settled(), { ...from.item, position }));
      },
      end: (at, { on, from }, cancelled) => {
        hands?.orbit.enable(true);
        const still = Math.hypot(...at.moved) < 4;
        if (from && (still || cancelled)) kept.preview(undefined);
        else if (from) kept.commit('move');
        const picked = still && !cancelled ? pick(on, at) : undefined;
        if (picked !== undefined) choose(picked);
      },
    },
    { first: true },
  )();
}

/** A ball about all that stands there; undefined for nothing. */
export function ballAbout(
  items: readonly StageItem[],
): { readonly middle: Vector; readonly radius: number } | undefined {
  const balls = items
    .filter((i) => !i.overlay)
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
