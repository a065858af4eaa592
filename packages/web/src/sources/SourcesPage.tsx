import { Box, Button, TextField, Typography } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type DragEvent, type ReactElement } from 'react';
import { useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { sentence } from '../api/client.ts';
import { Notice } from '../ui/Page.tsx';
import { DropHint } from '../ui/DropHint.tsx';
import { tokens } from '../ui/tokens.ts';
import { MeshCards, MESHES } from '../project/MeshCards.tsx';
import { NewMeshButton } from '../project/MeshMenu.tsx';
import { meshesOf } from '../project/meshes-store.ts';
import { createImporter } from '../project/import-store.ts';
import { ImportTray } from '../project/ImportTray.tsx';
import { newFlowMap, newPathMap } from '../project/new-maps.ts';
import { PackDialog } from './PackDialog.tsx';
import { ProjectFrame } from './ProjectFrame.tsx';
import { SourceCard } from './SourceCard.tsx';
import { usesOf } from '../project/usage.ts';
import { useProject } from '../project/use-project.ts';

const ACCEPTED = '.obj,.gltf,.glb,.bin,.png,.jpg,.jpeg,.webp,.tga,.gif,image/png,image/jpeg,image/webp,image/gif';

/** All sources of a project, and where new ones come in: by drop, by paste, from files, drawn or packed. */
export function SourcesPage(): ReactElement {
  const { projectId = '' } = useParams();
  const shown = useProject(projectId);
  const { store, sources, materials, freshness } = shown;
  const meshes = meshesOf(projectId);
  const importer = useMemo(() => createImporter(store, meshes), [store, meshes]);
  const meshCount = useStore(meshes, (s) => s.meshes.length);
  const picker = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const [sought, setSought] = useState('');
  const [over, setOver] = useState(false);
  const [packing, setPacking] = useState(false);
  const [problem, setProblem] = useState('');

  useEffect(() => {
    const pasted = (event: ClipboardEvent): void => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length === 0) return;
      event.preventDefault();
      importer.add(files);
    };
    window.addEventListener('paste', pasted);
    return () => {
      window.removeEventListener('paste', pasted);
    };
  }, [importer]);

  const start = (make: typeof newPathMap): void => {
    setProblem('');
    make(store).then(
      (source) => void navigate(`/projects/${projectId}/sources/${source.id}`),
      (error: unknown) => {
        setProblem(sentence(error));
      },
    );
  };
  const carriesFiles = (event: DragEvent): boolean => event.dataTransfer.types.includes('Files');
  const found = sources.filter((s) => s.name.toLowerCase().includes(sought.trim().toLowerCase()));

  return (
    <ProjectFrame shown={shown} here="Sources">
      <Box
        component="main"
        onDragOver={(event) => {
          if (!carriesFiles(event)) return;
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={(event) => {
          if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
        }}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          importer.add([...event.dataTransfer.files]);
        }}
        sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column', position: 'relative' }}
      >
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 1,
            px: 2,
            py: 1,
            flex: 'none',
            borderBottom: 1,
            borderColor: 'divider',
          }}
        >
          <Button variant="contained" onClick={() => picker.current?.click()}>
            Import files
          </Button>
          <input
            ref={picker}
            type="file"
            multiple
            accept={ACCEPTED}
            hidden
            aria-label="Files to import"
            onChange={(event) => {
              importer.add([...(event.currentTarget.files ?? [])]);
              event.currentTarget.value = '';
            }}
          />
          <Button
            variant="outlined"
            onClick={() => {
              start(newPathMap);
            }}
          >
            Draw a path map
          </Button>
          <Button
            variant="outlined"
            onClick={() => {
              start(newFlowMap);
            }}
          >
            Paint a flow map
          </Button>
          <Button
            variant="outlined"
            disabled={sources.length === 0}
            onClick={() => {
              setPacking(true);
            }}
          >
            Pack channels
          </Button>
          <NewMeshButton store={meshes} failed={setProblem} />
          {problem !== '' && (
            <Typography role="alert" sx={{ color: tokens.coral }}>
              {problem}
            </Typography>
          )}
          {meshCount > 0 && (
            <Button
              sx={{ ml: 'auto' }}
              onClick={() => {
                document.getElementById(MESHES)?.scrollIntoView({ block: 'start' });
              }}
            >
              {meshCount === 1 ? '1 mesh' : `${String(meshCount)} meshes`} below
            </Button>
          )}
          <TextField
            placeholder="Find by name"
            value={sought}
            onChange={(event) => {
              setSought(event.target.value);
            }}
            slotProps={{ htmlInput: { 'aria-label': 'Find by name', type: 'text' } }}
            sx={{ ml: meshCount > 0 ? 0 : 'auto', width: 180 }}
          />
        </Box>
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2, display: 'flex', flexDirection: 'column' }}>
          {shown.state === 'ready' && sources.length === 0 && meshCount === 0 && (
            <Notice
              title="No sources yet"
              detail="Drop or paste pictures here, or import files: PNG, JPEG, WebP, TGA and GIF, up to 64 MB and 64 million pixels. Meshes: OBJ, glTF and GLB, up to 200 thousand triangles."
            />
          )}
          {sources.length > 0 && found.length === 0 && sought !== '' && (
            <Notice title={`No picture matches "${sought}"`} />
          )}
          <Box
            component="ul"
            aria-label="Sources"
            sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(176px, 1fr))', gap: 1.5 }}
          >
            {found.map((source) => (
              <SourceCard
                key={source.id}
                source={source}
                uses={usesOf(source.name, materials)}
                freshness={freshness.get(source.id)}
              />
            ))}
          </Box>
          <MeshCards store={meshes} sought={sought} />
        </Box>
        <ImportTray importer={importer} />
        {over && <DropHint words="Drop to import them" />}
      </Box>
      {packing && (
        <PackDialog
          shown={shown}
          close={() => {
            setPacking(false);
          }}
        />
      )}
    </ProjectFrame>
  );
}
