import { SHAPES, type ShapeName } from '@estela/core';
import { Box, Button, ListSubheader, Menu, MenuItem } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { sentence, type StoredMesh } from '../api/client.ts';
import { freeName } from './sources-store.ts';
import { isShape, shapeData, SHAPE_NAMES } from './mesh-data.ts';
import type { MeshesStore } from './meshes-store.ts';

/** A button that asks for a shape, or for a mesh of the project where some are given: by its name or id. */
export function MeshMenu({
  label,
  main = false,
  meshes = [],
  take,
}: {
  readonly label: string;
  readonly main?: boolean;
  readonly meshes?: readonly StoredMesh[];
  readonly take: (mesh: string) => void;
}): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const item = (key: string, name: string, about: string): ReactElement => (
    <MenuItem
      key={key}
      onClick={() => {
        setAnchor(null);
        take(key);
      }}
    >
      {name}
      <Box component="span" sx={{ ml: 1.5, color: 'text.secondary' }}>
        {about}
      </Box>
    </MenuItem>
  );
  return (
    <>
      <Button
        variant={main ? 'contained' : 'outlined'}
        aria-haspopup="menu"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
      >
        {label}
      </Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
        }}
      >
        {SHAPE_NAMES.map((name) => item(name, SHAPES[name].label, SHAPES[name].about))}
        {meshes.length > 0 && <ListSubheader>Meshes of the project</ListSubheader>}
        {meshes.map(({ id, name, triangles }) => item(id, name, `${String(triangles)} triangles`))}
      </Menu>
    </>
  );
}

/** Starts a mesh of the project from a shape. */
export function NewMeshButton({
  store,
  failed,
}: {
  readonly store: MeshesStore;
  readonly failed: (why: string) => void;
}): ReactElement {
  const navigate = useNavigate();
  const start = async (shape: ShapeName): Promise<void> => {
    const name = freeName(SHAPES[shape].label.toLowerCase(), store.getState().meshes);
    const mesh = await store.create(name, shapeData(shape));
    await navigate(`/projects/${store.projectId}/meshes/${mesh.id}`);
  };
  return (
    <MeshMenu
      label="Mesh from a shape"
      take={(shape) => {
        if (isShape(shape))
          start(shape).catch((error: unknown) => {
            failed(sentence(error));
          });
      }}
    />
  );
}
