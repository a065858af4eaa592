import { SHAPES, type Lens, type ShapeName } from '@estela/core';
import { useCallback } from 'react';
import { useSearchParams } from 'react-router';
import { withParameters } from '../ui/address.ts';

/** The UV square itself, the shape or the mesh of the project that it is put on, or a set. */
export type ViewName = 'flat' | ShapeName | `mesh-${string}` | `set-${string}`;
const isView = (name: string): name is ViewName =>
  name === 'flat' || Object.hasOwn(SHAPES, name) || /^(mesh|set)-[0-9a-f-]{36}$/.test(name);

/** What a view stands for. */
export function partsOfView(
  view: ViewName,
):
  | { readonly kind: 'flat' }
  | { readonly kind: 'shape'; readonly name: ShapeName }
  | { readonly kind: 'mesh' | 'set'; readonly id: string } {
  if (view === 'flat') return { kind: 'flat' };
  if (view.startsWith('mesh-')) return { kind: 'mesh', id: view.slice(5) };
  if (view.startsWith('set-')) return { kind: 'set', id: view.slice(4) };
  return { kind: 'shape', name: view as ShapeName };
}

interface LensWords {
  readonly label: string;
  readonly title: string;
}
const MATERIAL: LensWords = { label: 'Material', title: 'The final material' };

/** What a view of meshes says of its keys. */
export const ORBIT_KEYS = 'Arrow keys rotate the view, plus and minus zoom';

/** Lenses that are looked through on the flat square; the step's is that of the chosen step alone. */
export const FLAT_LENSES = {
  material: MATERIAL,
  tiling: { label: 'Tiling', title: '3 x 3 tiles, with the seams outlined' },
  seams: { label: 'Seams', title: 'Difference between opposite tile edges' },
  loop: { label: 'Loop', title: 'Difference between the end of the loop and its start' },
  motion: { label: 'Motion', title: 'Direction and speed of the selected step' },
} as const satisfies Partial<Record<Lens, LensWords>>;
export type FlatLens = keyof typeof FLAT_LENSES;

/** Lenses for a mesh. */
export const MESH_LENSES = {
  material: MATERIAL,
  motion: { label: 'Motion', title: 'Direction of the selected step on the surface' },
  speed: { label: 'Speed', title: 'Speed of the selected step on the surface, in metres per second' },
  stretch: { label: 'Stretch', title: 'Texel stretch: longest to shortest side' },
  grid: { label: 'UV grid', title: 'The UV square on the surface' },
  seams: { label: 'Seams', title: 'Whether the material continues across UV seams' },
} as const satisfies Record<string, LensWords>;
export type MeshLens = keyof typeof MESH_LENSES;
export type StageLens = FlatLens | MeshLens;

export interface StageAddress {
  readonly view: ViewName;
  readonly lens: StageLens;
  readonly show: (next: { readonly view?: ViewName; readonly lens?: StageLens }) => void;
}

/** The lenses of a view; a set shows its materials. */
export function lensesOf(view: ViewName): Partial<Record<StageLens, LensWords>> {
  const { kind } = partsOfView(view);
  return kind === 'flat' ? FLAT_LENSES : kind === 'set' ? { material: MATERIAL } : MESH_LENSES;
}

/** Which view and lens are open stands in the address, so that a link shows the same. */
export function useStageAddress(): StageAddress {
  const [parameters, setParameters] = useSearchParams();
  const given = parameters.get('view') ?? '';
  const view: ViewName = isView(given) ? given : 'flat';
  const wanted = parameters.get('lens') ?? '';
  const lens = Object.hasOwn(lensesOf(view), wanted) ? (wanted as StageLens) : 'material';
  const show = useCallback<StageAddress['show']>(
    (next) => {
      setParameters(
        (before) =>
          withParameters(before, {
            view: next.view === 'flat' ? undefined : next.view,
            lens: next.lens === 'material' ? undefined : next.lens,
          }),
        { replace: true },
      );
    },
    [setParameters],
  );
  return { view, lens, show };
}
