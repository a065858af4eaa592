import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import type { StoredMesh } from '../api/client.ts';
import { CaptionLink, CardItem } from '../ui/CardItem.tsx';
import { tokens } from '../ui/tokens.ts';
import { MeshPicture } from './MeshPicture.tsx';
import type { MeshesStore } from './meshes-store.ts';

/** Where they stand on the page. */
export const MESHES = 'meshes';

/** The meshes of a project; each opens in Fit. */
export function MeshCards({
  store,
  sought,
}: {
  readonly store: MeshesStore;
  readonly sought: string;
}): ReactElement | null {
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
      <Box
        component="ul"
        aria-label="Meshes"
        sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(176px, 1fr))', gap: 1.5 }}
      >
        {found.map((mesh) => (
          <MeshCard key={mesh.id} mesh={mesh} />
        ))}
      </Box>
    </>
  );
}

function MeshCard({ mesh }: { readonly mesh: StoredMesh }): ReactElement {
  return (
    <CardItem>
      <Box
        component={Link}
        to={`/projects/${mesh.projectId}/meshes/${mesh.id}`}
        tabIndex={-1}
        aria-hidden="true"
        sx={{ display: 'block' }}
      >
        <MeshPicture mesh={mesh} size={176} />
      </Box>
      <Box sx={{ px: 1, py: 0.75 }}>
        <Typography component="h3" noWrap title={mesh.name} sx={{ fontWeight: 500, fontSize: 13 }}>
          <CaptionLink to={`/projects/${mesh.projectId}/meshes/${mesh.id}`} label={`Fit ${mesh.name}`}>
            {mesh.name}
          </CaptionLink>
        </Typography>
        <Typography variant="caption" component="p" noWrap>
          {mesh.triangles} triangles, {(mesh.size / 1024).toFixed(0)} kB
        </Typography>
      </Box>
    </CardItem>
  );
}
