import { Box } from '@mui/material';
import { useEffect, useMemo, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { meshesOf } from '../../meshes/meshes-store.ts';
import { createImporter, isSettled } from '../../sources/import-store.ts';
import { ImportTray } from '../../sources/ImportTray.tsx';
import { useSession } from '../session.ts';
import type { StageAddress } from './lens.ts';

/** What becomes of files that were dropped on the Stage: a mesh is brought into the project and shown at once; pictures become sources. */
export function DropTray({ files, show }: { readonly files: readonly File[]; readonly show: StageAddress['show'] }): ReactElement | null {
  const { project, sources } = useSession();
  const importer = useMemo(() => createImporter(sources, meshesOf(project.id)), [sources, project]);
  const items = useStore(importer, (s) => s.items);
  useEffect(() => {
    importer.add(files);
  }, [importer, files]);
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
  if (items.every((i) => isSettled(i) && i.stage === 'left out')) return null;
  return (
    <Box sx={{ position: 'absolute', left: 0, right: 0, bottom: 0, bgcolor: 'background.paper' }}>
      <ImportTray importer={importer} />
    </Box>
  );
}
