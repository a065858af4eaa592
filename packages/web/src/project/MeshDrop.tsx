import { Box } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement, type ReactNode } from 'react';
import { DropHint } from '../ui/DropHint.tsx';
import { tokens } from '../ui/tokens.ts';
import type { SourcesStore } from './sources-store.ts';

// Reading files is a large part that most visits do without.
const DropTray = lazy(async () => ({ default: (await import('./DropTray.tsx')).DropTray }));

/**
 * Takes files that are dropped on a Stage: meshes are brought into the project and handed on, pictures become sources.
 */
export function MeshDrop({
  sources,
  words,
  take,
  children,
}: {
  readonly sources: SourcesStore;
  /** What letting go does. */
  readonly words: string;
  /** Does something with a mesh that was brought in, by its id. */
  readonly take: (mesh: string) => void;
  readonly children: ReactNode;
}): ReactElement {
  const [over, setOver] = useState(false);
  const [files, setFiles] = useState<readonly File[]>();
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
        setFiles([...event.dataTransfer.files]);
      }}
      sx={{
        position: 'relative',
        flex: 1,
        minHeight: 0,
        display: 'flex',
        flexDirection: 'column',
        bgcolor: tokens.pit,
      }}
    >
      {children}
      {over && <DropHint words={words} />}
      {files && (
        <Suspense>
          <DropTray
            files={files}
            sources={sources}
            take={({ mesh }) => {
              if (mesh?.id !== undefined) take(mesh.id);
            }}
          />
        </Suspense>
      )}
    </Box>
  );
}
