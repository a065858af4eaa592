import type { GlbReport, GltfSlot, MaterialReport, SlotFidelity, SlotReport } from '@estela/core';
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';

const SLOTS: Readonly<Record<GltfSlot, string>> = {
  baseColor: 'Base colour',
  metallicRoughness: 'Roughness, metal',
  normal: 'Normal',
  emissive: 'Emission',
  transmission: 'Transmission',
};
const INKS: Readonly<Record<SlotFidelity, string>> = {
  exact: tokens.text,
  keyed: tokens.text,
  flipbook: tokens.amber,
  baked: tokens.amber,
  'left out': tokens.coral,
};
const WORDS: Readonly<Record<SlotFidelity, string>> = {
  exact: 'Plays exactly',
  keyed: 'Plays by keys',
  flipbook: 'Plays as a flipbook',
  baked: 'Still',
  'left out': 'Partly exported',
};

/** What players of a GLB show of each material, and what they do not. */
export function GlbReportList({ report }: { readonly report: GlbReport }): ReactElement {
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      {report.materials.map((material) => (
        <OfMaterial key={`${material.material} ${material.variant ?? ''}`} of={material} />
      ))}
      {report.materials.length === 0 && <Typography>It has no material: the meshes are plain grey.</Typography>}
      <Notes notes={report.notes} />
    </Box>
  );
}

function OfMaterial({ of: { material, variant, slots, notes } }: { readonly of: MaterialReport }): ReactElement {
  const name = variant === undefined ? material : `${material}: ${variant}`;
  return (
    <Box component="section" aria-label={name}>
      <Typography component="h3" sx={{ fontWeight: 500, mb: 0.5 }}>
        {name}
      </Typography>
      <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: '124px 1fr', rowGap: 0.5 }}>
        {slots.map((slot) => (
          <Slot key={slot.slot} of={slot} />
        ))}
      </Box>
      <Notes notes={notes} />
    </Box>
  );
}

function Slot({ of }: { readonly of: SlotReport }): ReactElement {
  const { slot, fidelity, why, line } = of;
  return (
    <>
      <Box component="dt" sx={{ color: 'text.secondary' }}>
        {SLOTS[slot]}
      </Box>
      <Box component="dd" sx={{ m: 0 }}>
        <Box component="span" sx={{ color: INKS[fidelity], fontWeight: 500 }}>
          {WORDS[fidelity]}
        </Box>
        <Box component="span" sx={{ color: 'text.secondary' }}>
          {figuresOf(of)}
        </Box>
        {why !== undefined && (
          <Typography sx={{ color: 'text.secondary' }}>
            {why}
            {line !== undefined && ` Line ${String(line)}.`}
          </Typography>
        )}
      </Box>
    </>
  );
}

function figuresOf({ uvError, factorError, size, frames }: SlotReport): string {
  return [
    ...(uvError === undefined ? [] : [`within ${uvError.toPrecision(1)} UV`]),
    ...(factorError === undefined ? [] : [`its factor within ${factorError.toPrecision(1)}`]),
    ...(frames === undefined ? [] : [`${String(frames)} frames`]),
    ...(size ? [`${String(size[0])} x ${String(size[1])} pixels`] : ['no texture']),
  ]
    .map((part) => `, ${part}`)
    .join('');
}

function Notes({ notes }: { readonly notes: readonly string[] }): ReactElement | null {
  if (notes.length === 0) return null;
  return (
    <Box component="ul" sx={{ m: 0, mt: 0.5, pl: 2, color: 'text.secondary' }}>
      {notes.map((note) => (
        <li key={note}>{note}</li>
      ))}
    </Box>
  );
}
