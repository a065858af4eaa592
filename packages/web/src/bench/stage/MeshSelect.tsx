import { SHAPES, type ShapeName } from '@estela/core';
import { Box, ListSubheader, MenuItem, Select } from '@mui/material';
import type { ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { meshesOf } from '../../project/meshes-store.ts';
import { setsOf } from '../../project/sets-store.ts';
import { useSession } from '../session.ts';
import { partsOfView, type StageAddress, type ViewName } from '../../viewport/lens.ts';

/** What the material lies on: a shape, a mesh of the project, or a set. */
export function MeshSelect({ address: { view, lens, show } }: { readonly address: StageAddress }): ReactElement {
  const { project } = useSession();
  const navigate = useNavigate();
  const meshes = useStore(meshesOf(project.id), (s) => s.meshes);
  const sets = useStore(setsOf(project.id), (s) => s.sets);
  const parts = partsOfView(view);
  const label =
    parts.kind === 'flat'
      ? 'On a mesh'
      : parts.kind === 'shape'
        ? SHAPES[parts.name].label
        : ((parts.kind === 'mesh' ? meshes : sets).find((m) => m.id === parts.id)?.name ??
          (parts.kind === 'mesh' ? 'A mesh' : 'A set'));
  const about = (text: string): ReactElement => (
    <Box component="span" sx={{ ml: 1.5, color: 'text.secondary' }}>
      {text}
    </Box>
  );
  return (
    <Select
      value={view === 'flat' ? '' : view}
      displayEmpty
      renderValue={() => label}
      onChange={(event) => {
        const next = event.target.value as ViewName | 'bring';
        if (next === 'bring') void navigate(`/projects/${project.id}/sources`);
        // A lens that both have stays.
        else show({ view: next, lens: partsOfView(next).kind === 'set' ? 'material' : lens });
      }}
      inputProps={{ 'aria-label': 'Mesh' }}
      sx={{
        height: 28,
        flex: 1,
        minWidth: 0,
        fontSize: 13,
        color: view === 'flat' ? 'text.secondary' : 'text.primary',
        bgcolor: view === 'flat' ? 'transparent' : tokens.raise,
        '& .MuiSelect-select': { pl: 1, py: 0 },
      }}
    >
      {(Object.keys(SHAPES) as ShapeName[]).map((key) => (
        <MenuItem key={key} value={key}>
          {SHAPES[key].label}
          {about(SHAPES[key].about)}
        </MenuItem>
      ))}
      {meshes.length > 0 && <ListSubheader>Meshes of {project.name}</ListSubheader>}
      {meshes.map(({ id, name, triangles }) => (
        <MenuItem key={id} value={`mesh-${id}`}>
          {name}
          {about(`${String(triangles)} triangles`)}
        </MenuItem>
      ))}
      {sets.length > 0 && <ListSubheader>Sets of {project.name}</ListSubheader>}
      {sets.map(({ id, name, items }) => (
        <MenuItem key={id} value={`set-${id}`}>
          {name}
          {about(items.length === 1 ? '1 object' : `${String(items.length)} objects`)}
        </MenuItem>
      ))}
      <MenuItem value="bring">Import a mesh ...{about('OBJ, glTF or GLB; or drop one here')}</MenuItem>
    </Select>
  );
}
