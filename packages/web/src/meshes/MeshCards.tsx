import { SHAPES, type ShapeName } from '@estela/core';
import { Box, Button, Menu, MenuItem, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { sentence, type StoredMesh } from '../api/client.ts';
import { tokens } from '../app/tokens.ts';
import { freeName } from '../sources/sources-store.ts';
import { shapeData } from './mesh-data.ts';
import { MeshPicture } from './MeshPicture.tsx';
import type { MeshesStore } from './meshes-store.ts';

/** Where they stand on the page. */
export const MESHES = 'meshes';

/** The meshes of a project; each opens in Fit. */
export function MeshCards({ store, sought }: { readonly store: MeshesStore; readonly sought: string }): ReactElement | null {
  const { meshes, status, message } = useStore(store);
  if (status === 'failed')
    return (
      <Typography role="alert" sx={{ color: tokens.coral, mt: 2 }}>
        {message}
      </Typography>
    );
  const found = meshes.filter((m) => m.name.toLowerCase().includes(sought.trim().toLowerCase()));
  if (found.length === 0) return null;
  return (
    <>
      <Typography id={MESHES} variant="h2" sx={{ mt: 2.5, mb: 1 }}>
        Meshes
      </Typography>
      <Box component="ul" aria-label="Meshes" sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(176px, 1fr))', gap: 1.5 }}>
        {found.map((mesh) => (
          <MeshCard key={mesh.id} mesh={mesh} />
        ))}
      </Box>
    </>
  );
}

function MeshCard({ mesh }: { readonly mesh: StoredMesh }): ReactElement {
  return (
    <Box
      component="li"
      sx={{
        listStyle: 'none',
        border: 1,
        borderColor: 'divider',
        borderRadius: '3px',
        bgcolor: 'background.paper',
        overflow: 'hidden',
        '&:hover': { borderColor: tokens.dim },
      }}
    >
      <Box
        component={Link}
        to={`/projects/${mesh.projectId}/meshes/${mesh.id}`}
        aria-label={`Fit ${mesh.name}`}
        sx={{ display: 'block', '&:focus-visible': { outlineOffset: -2 } }}
      >
        <MeshPicture mesh={mesh} size={176} />
      </Box>
      <Box sx={{ px: 1, py: 0.75 }}>
        <Typography component="h3" noWrap title={mesh.name} sx={{ fontWeight: 500, fontSize: 13 }}>
          {mesh.name}
        </Typography>
        <Typography variant="caption" component="p" noWrap>
          {mesh.triangles} triangles, {(mesh.size / 1024).toFixed(0)} kB
        </Typography>
      </Box>
    </Box>
  );
}

/** Starts a mesh of the project from a shape. */
export function NewMeshButton({ store, failed }: { readonly store: MeshesStore; readonly failed: (why: string) => void }): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const navigate = useNavigate();
  const start = async (shape: ShapeName): Promise<void> => {
    const name = freeName(SHAPES[shape].label.toLowerCase(), store.getState().meshes);
    const mesh = await store.create(name, shapeData(shape));
    await navigate(`/projects/${store.projectId}/meshes/${mesh.id}`);
  };
  return (
    <>
      <Button
        variant="outlined"
        aria-haspopup="menu"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
      >
        Mesh from a shape
      </Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
        }}
      >
        {(Object.keys(SHAPES) as ShapeName[]).map((shape) => (
          <MenuItem
            key={shape}
            onClick={() => {
              setAnchor(null);
              start(shape).catch((error: unknown) => {
                failed(sentence(error));
              });
            }}
          >
            {SHAPES[shape].label}
            <Box component="span" sx={{ ml: 1.5, color: 'text.secondary' }}>
              {SHAPES[shape].about}
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
