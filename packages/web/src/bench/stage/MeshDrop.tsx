import { Box } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../app/tokens.ts';
import { meshesOf } from '../../meshes/meshes-store.ts';
import { createImporter, isSettled } from '../../sources/import-store.ts';
import { ImportTray } from '../../sources/ImportTray.tsx';
import { useSession } from '../session.ts';
import type { StageAddress } from './lens.ts';

/** Takes files that are dropped on the Stage: a mesh is brought into the project and shown at once; pictures become sources. */
export function MeshDrop({ address, children }: { readonly address: StageAddress; readonly children: ReactNode }): ReactElement {
  const { project, sources } = useSession();
  const importer = useMemo(() => createImporter(sources, meshesOf(project.id)), [sources, project]);
  const [over, setOver] = useState(false);
  const items = useStore(importer, (s) => s.items);
  const { show } = address;
  useEffect(
    () =>
      importer.subscribe(({ items: now }, { items: before }) => {
        const done = now.find((item) => item.mesh?.id !== undefined && before.find((b) => b.id === item.id)?.mesh?.id === undefined);
        if (done?.mesh?.id !== undefined) show({ view: `mesh-${done.mesh.id}` });
        // What went well needs no list.
        if (now.length > 0 && now.every((item) => item.stage === 'done')) setTimeout(importer.clear, 1500);
      }),
    [importer, show],
  );
  return (
    <Box
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(event) => {
        if (event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        setOver(false);
        importer.add([...event.dataTransfer.files]);
      }}
      sx={{ position: 'relative', flex: 1, minHeight: 0, bgcolor: tokens.pit }}
    >
      {children}
      {over && (
        <Box
          aria-hidden="true"
          sx={{
            position: 'absolute',
            inset: 8,
            border: `2px dashed ${tokens.bone}`,
            borderRadius: '3px',
            bgcolor: 'rgba(19, 19, 19, 0.7)',
            display: 'grid',
            placeItems: 'center',
            pointerEvents: 'none',
          }}
        >
          Let go to put the material on this mesh
        </Box>
      )}
      {items.some((i) => !isSettled(i) || i.stage !== 'left out') && (
        <Box sx={{ position: 'absolute', left: 0, right: 0, bottom: 0, bgcolor: 'background.paper' }}>
          <ImportTray importer={importer} />
        </Box>
      )}
    </Box>
  );
}
