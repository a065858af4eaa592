import { useState, type ReactElement } from 'react';
import type { Material } from '../api/client.ts';
import { savedNow } from '../history/saved-now.ts';
import { GlbDialog } from '../project/glb/GlbDialog.tsx';
import { Choice, Line } from '../ui/fields.tsx';
import type { Fit } from './fit-store.ts';

/** Asks for the material that leaves on a mesh. */
export function FitGlbDialog({
  fit,
  mesh,
  materials,
  close,
}: {
  readonly fit: Fit;
  readonly mesh: { readonly id: string; readonly name: string };
  readonly materials: readonly Material[];
  readonly close: () => void;
}): ReactElement {
  const [material, setMaterial] = useState(materials[0]?.id ?? '');
  return (
    <GlbDialog
      title={`Export ${mesh.name} with a material`}
      start={{ mesh: mesh.id }}
      before={() => savedNow(fit.kept, fit.finish)}
      address={material === '' ? undefined : `/api/materials/${material}`}
      close={close}
    >
      <Line name="Material">
        <Choice
          label="Material"
          value={material}
          options={materials.map(({ id, title }) => [id, title])}
          choose={setMaterial}
        />
      </Line>
    </GlbDialog>
  );
}
