import { Box } from '@mui/material';
import { useEffect, useEffectEvent, useMemo, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { createImporter, isSettled, type ImportItem } from './import-store.ts';
import { ImportTray } from './ImportTray.tsx';
import type { SourcesStore } from './sources-store.ts';
import { meshesOf } from './meshes-store.ts';

/** What becomes of files that were dropped on a view: each is imported into the project, and handed on once it is. */
export function DropTray({
  files,
  sources,
  take,
}: {
  readonly files: readonly File[];
  readonly sources: SourcesStore;
  readonly take: (item: ImportItem) => void;
}): ReactElement | null {
  const importer = useMemo(() => createImporter(sources, meshesOf(sources.projectId)), [sources]);
  const items = useStore(importer, (s) => s.items);
  const handOn = useEffectEvent(take);
  useEffect(() => {
    importer.add(files);
  }, [importer, files]);
  useEffect(
    () =>
      importer.subscribe(({ items: now }, { items: before }) => {
        for (const item of now)
          if (item.stage === 'done' && before.find((b) => b.id === item.id)?.stage !== 'done') handOn(item);
        // What went well needs no list, unless materials came with it.
        if (now.length > 0 && now.every((item) => item.stage === 'done' && item.materials.length === 0))
          setTimeout(importer.clear, 1500);
      }),
    [importer],
  );
  if (items.every((i) => isSettled(i) && i.stage === 'left out')) return null;
  return (
    <Box sx={{ position: 'absolute', left: 0, right: 0, bottom: 0, zIndex: 3, bgcolor: 'background.paper' }}>
      <ImportTray importer={importer} />
    </Box>
  );
}
