import { SHAPES } from '@estela/core';
import type { Material, SetBody, SetItem, StoredMesh } from '../api/client.ts';
import { isShape } from './mesh-data.ts';

export const EMPTY_SET: Omit<SetBody, 'name'> = {
  items: [],
  scene: { environment: 'studio', backdrop: 'room', exposure: 0 },
  view: null,
};

/** A set whose items may be as they were kept before an `overlay` was called that. */
export const withOverlays = (set: SetBody): SetBody => ({
  ...set,
  items: set.items.map(({ film, ...item }: SetItem & { readonly film?: boolean }) =>
    film === undefined ? item : { ...item, overlay: film },
  ),
});

/** An id that no thing of the set has. */
function freeId(items: readonly SetItem[]): string {
  let n = items.length + 1;
  while (items.some((i) => i.id === `thing-${String(n)}`)) n++;
  return `thing-${String(n)}`;
}

/** A thing as it is put there first: beside the others. */
export function newItem(items: readonly SetItem[], mesh: string, material: string | null): SetItem {
  const x = items.length === 0 ? 0 : Math.max(...items.filter((i) => !i.overlay).map((i) => i.position[0]), -1.2) + 1.2;
  return {
    id: freeId(items),
    mesh,
    subdivisions: null,
    material,
    variant: null,
    position: [x, 0, 0],
    turn: [0, 0, 0],
    scale: 1,
    copies: null,
    turning: 0,
    delay: 0,
    overlay: false,
  };
}

export const withItem = (set: SetBody, item: SetItem): SetBody => ({
  ...set,
  items: set.items.map((i) => (i.id === item.id ? item : i)),
});
export const withoutItem = (set: SetBody, id: string): SetBody => ({
  ...set,
  items: set.items.filter((i) => i.id !== id),
});

/** The same thing once more, a little beside. */
export function doubled(set: SetBody, item: SetItem): { readonly set: SetBody; readonly id: string } {
  const id = freeId(set.items);
  const [x, y, z] = item.position;
  return { set: { ...set, items: [...set.items, { ...item, id, position: [x + 0.3, y, z + 0.3] }] }, id };
}

/** What a thing is called: its mesh and what it is dressed in. */
export function nameOfItem(
  item: SetItem,
  meshes: readonly StoredMesh[],
  materials: readonly Material[],
): readonly [mesh: string, dress: string] {
  const mesh = item.overlay
    ? 'Full-screen overlay'
    : isShape(item.mesh)
      ? SHAPES[item.mesh].label
      : (meshes.find((m) => m.id === item.mesh)?.name ?? 'a deleted mesh');
  const material = materials.find((m) => m.id === item.material);
  const dress =
    item.material === null
      ? 'no material'
      : material
        ? `${material.title}${item.variant === null ? '' : `, ${item.variant}`}`
        : 'a deleted material';
  return [mesh, dress];
}
