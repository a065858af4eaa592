import { Box } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement, type ReactNode } from 'react';
import { tokens } from '../../app/tokens.ts';
import type { StageAddress } from './lens.ts';

// Reading files is a large part that most visits do without.
const DropTray = lazy(async () => ({ default: (await import('./DropTray.tsx')).DropTray }));

/** Takes files that are dropped on the Stage. */
export function MeshDrop({ address, children }: { readonly address: StageAddress; readonly children: ReactNode }): ReactElement {
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
      {files && (
        <Suspense>
          <DropTray files={files} show={address.show} />
        </Suspense>
      )}
    </Box>
  );
}
