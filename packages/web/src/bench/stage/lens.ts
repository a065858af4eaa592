import { SHAPES, type Lens, type ShapeName } from '@estela/core';
import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** The UV square itself, or the shape that it is put on. */
export type ViewName = 'flat' | ShapeName;
const isView = (name: string): name is ViewName => name === 'flat' || Object.hasOwn(SHAPES, name);

/** Lenses that are looked through on the flat square; the step's is that of the chosen step alone. */
export const FLAT_LENSES = {
  material: { label: 'Material', title: 'The material as it is put out' },
  tiling: { label: 'Tiling', title: 'Three by three, with the seams outlined' },
  seams: { label: 'Seams', title: 'How far it differs from itself a tile on' },
  loop: { label: 'Loop', title: 'How far the end of the loop differs from its start' },
  motion: { label: 'Motion', title: 'Which way the chosen step moves, and how fast' },
} as const satisfies Partial<Record<Lens, { label: string; title: string }>>;
export type FlatLens = keyof typeof FLAT_LENSES;

export interface StageAddress {
  readonly view: ViewName;
  readonly lens: FlatLens;
  readonly show: (next: { readonly view?: ViewName; readonly lens?: FlatLens }) => void;
}

/** Which view and lens are open stands in the address, so that a link shows the same. A mesh shows the material. */
export function useStageAddress(): StageAddress {
  const [parameters, setParameters] = useSearchParams();
  const given = parameters.get('view') ?? '';
  const view: ViewName = isView(given) ? given : 'flat';
  const wanted = parameters.get('lens') ?? '';
  const lens: FlatLens = view === 'flat' && wanted in FLAT_LENSES ? (wanted as FlatLens) : 'material';
  const show = useCallback<StageAddress['show']>(
    (next) => {
      setParameters(
        (before) => {
          const after = new URLSearchParams(before);
          after.delete('view');
          after.delete('lens');
          if (next.view && next.view !== 'flat') after.set('view', next.view);
          if (next.lens && next.lens !== 'material') after.set('lens', next.lens);
          return after;
        },
        { replace: true },
      );
    },
    [setParameters],
  );
  return { view, lens, show };
}
