import type { MeshData } from '@estela/core';
import type { Material, SetItem, StoredMesh } from '../api/client.ts';
import { variantLook } from '../material/look-variant.ts';
import { derive, type Look } from '../material/look.ts';
import type { StageItem } from './stage-items.ts';
import { isShape, meshData, shapeData } from '../project/mesh-data.ts';

const looks = new Map<string, { readonly text: string; readonly look: Look }>();

/** A material's look; compiled once for each text. */
function lookOf({ id, text }: Material): Look {
  let known = looks.get(id);
  if (known?.text !== text) looks.set(id, (known = { text, look: derive(text).look }));
  return known.look;
}

let plain: Look | undefined;
/** What a thing without a material, or with one that is gone, is shown in. */
const plainLook = (): Look =>
  (plain ??= derive('loop 1s at 30fps\nsurface lit opaque two-sided\nout color = (0.5, 0.5, 0.5)\n').look);

/** What does not stand where it should, as sentences. */
export interface PlacedSet {
  readonly items: readonly StageItem[];
  readonly problems: readonly string[];
}

/** The material that is open, as it is at this moment, and the variant that is shown of it. */
export interface OwnMaterial {
  readonly id: string;
  readonly look: Look;
  readonly variant: string | undefined;
}

/** The things of a set as the Stage takes them. Meshes that are not there, or cannot be read, are left out and told. */
export async function placeSet(
  items: readonly SetItem[],
  meshes: readonly StoredMesh[],
  materials: readonly Material[],
  own?: OwnMaterial,
): Promise<PlacedSet> {
  const problems: string[] = [];
  const placed: StageItem[] = [];
  for (const item of items) {
    let mesh: MeshData | undefined;
    if (isShape(item.mesh)) mesh = shapeData(item.mesh, item.subdivisions);
    else {
      const stored = meshes.find((m) => m.id === item.mesh);
      if (stored) mesh = await meshData(stored).catch(() => undefined);
      if (!mesh) {
        problems.push(stored ? `The mesh ${stored.name} cannot be read.` : 'A mesh of this set was deleted.');
        continue;
      }
    }
    const material = materials.find((m) => m.id === item.material);
    if (item.material !== null && !material) problems.push('A material of this set was deleted.');
    const isOwn = item.material !== null && item.material === own?.id;
    const look = isOwn
      ? variantLook(own.look, item.variant ?? own.variant)
      : material
        ? variantLook(lookOf(material), item.variant ?? undefined)
        : plainLook();
    const { id, position, turn, scale, copies, turning, delay, overlay } = item;
    placed.push({
      key: id,
      mesh,
      look,
      onClock: isOwn,
      placing: { position, turn, scale, copies },
      turning,
      delay,
      overlay,
    });
  }
  return { items: placed, problems: [...new Set(problems)] };
}
