import { Box, Button, InputBase, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { sentence, type Source } from '../../api/client.ts';
import { meshesOf } from '../../project/meshes-store.ts';
import { SourcePicture } from '../../project/SourcePicture.tsx';
import { tokens } from '../../ui/tokens.ts';
import { useStageAddress } from '../../viewport/lens.ts';
import { useSession } from '../session.ts';
import { DropZone } from './DropZone.tsx';
import { DRAGGED_SOURCE, pickFiles, placeTexture } from './place-texture.ts';

/** The project's textures and meshes: to use by a click, by dragging to the Score or the Stage, or to open. */
export function SourcesTab(): ReactElement {
  const session = useSession();
  const { sources, debounced, project } = session;
  const { status, message, sources: list } = useStore(sources);
  const images = useStore(debounced, (s) => s.derived.program.images);
  const store = meshesOf(project.id);
  const meshes = useStore(store, (s) => s.meshes);
  const address = useStageAddress();
  const [sought, setSought] = useState('');
  const [problem, setProblem] = useState('');
  useEffect(() => {
    void store.load();
  }, [store]);
  const wanted = sought.trim().toLowerCase();
  const uses = useMemo(() => {
    const names = new Map<string, string[]>();
    for (const { name, source } of images) names.set(source, [...(names.get(source) ?? []), name]);
    return names;
  }, [images]);
  const found = list.filter((s) => s.name.toLowerCase().includes(wanted));
  const foundMeshes = meshes.filter((m) => m.name.toLowerCase().includes(wanted));
  const use = (source: Source): void => {
    setProblem('');
    placeTexture(session, source).catch((error: unknown) => {
      setProblem(sentence(error));
    });
  };
  return (
    <DropZone words="Drop to import and use" sx={{ minHeight: '100%' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          px: 1.5,
          py: 0.5,
          position: 'sticky',
          top: 0,
          zIndex: 1,
          bgcolor: 'background.default',
        }}
      >
        <Button
          variant="outlined"
          sx={{ flex: 'none' }}
          title="Import textures and meshes and use them here (Ctrl+I)"
          onClick={() => {
            pickFiles(session);
          }}
        >
          Import files
        </Button>
        <InputBase
          value={sought}
          placeholder="Find by name"
          onChange={(event) => {
            setSought(event.target.value);
          }}
          slotProps={{ input: { 'aria-label': 'Find a source by name' } }}
          sx={{ width: 180, height: 28, px: 0.75, border: 1, borderColor: 'divider', borderRadius: '3px' }}
        />
        {problem !== '' && (
          <Typography role="alert" noWrap sx={{ color: tokens.coral }}>
            {problem}
          </Typography>
        )}
        <Button component={Link} to={`/projects/${project.id}/sources`} sx={{ ml: 'auto', flex: 'none' }}>
          Open Sources
        </Button>
      </Box>
      {status === 'failed' && (
        <Typography role="alert" sx={{ px: 1.5, color: tokens.coral }}>
          {message}
        </Typography>
      )}
      {status === 'ready' && list.length === 0 && meshes.length === 0 && (
        <Typography sx={{ px: 1.5, py: 1, color: 'text.secondary' }}>
          No textures yet. Drop images or a mesh here, on the Score or on the Stage, or paste them.
        </Typography>
      )}
      {wanted !== '' && found.length + foundMeshes.length === 0 && (
        <Typography sx={{ px: 1.5, py: 1, color: 'text.secondary' }}>
          Nothing is called like &quot;{sought}&quot;.
        </Typography>
      )}
      <Box
        component="ul"
        aria-label="Textures"
        sx={{
          m: 0,
          px: 1.5,
          pb: 1,
          display: 'grid',
          gridTemplateColumns: 'repeat(auto-fill, minmax(104px, 1fr))',
          gap: 1,
        }}
      >
        {found.map((source) => (
          <Texture
            key={source.id}
            source={source}
            names={uses.get(source.name) ?? []}
            use={() => {
              use(source);
            }}
          />
        ))}
      </Box>
      {foundMeshes.length > 0 && (
        <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 0.75, px: 1.5, pb: 1 }}>
          <Typography component="h3" sx={{ color: 'text.secondary', mr: 0.5 }}>
            Meshes
          </Typography>
          {foundMeshes.map((mesh) => (
            <Button
              key={mesh.id}
              variant="outlined"
              title={`Show the material on ${mesh.name}`}
              aria-pressed={address.view === `mesh-${mesh.id}`}
              onClick={() => {
                address.show({ view: `mesh-${mesh.id}` });
              }}
            >
              {mesh.name}
            </Button>
          ))}
        </Box>
      )}
    </DropZone>
  );
}

function Texture({
  source,
  names,
  use,
}: {
  readonly source: Source;
  /** Images of the material that read it. */
  readonly names: readonly string[];
  readonly use: () => void;
}): ReactElement {
  const { name, width, height, projectId, id } = source;
  return (
    <Box
      component="li"
      draggable
      onDragStart={(event) => {
        event.dataTransfer.setData(DRAGGED_SOURCE, id);
        event.dataTransfer.effectAllowed = 'copy';
      }}
      sx={{
        listStyle: 'none',
        border: 1,
        borderColor: names.length > 0 ? tokens.dim : 'divider',
        borderRadius: '3px',
        bgcolor: 'background.paper',
        overflow: 'hidden',
        '&:hover': { borderColor: tokens.bone },
      }}
    >
      <Box
        component="button"
        type="button"
        aria-label={`Use ${name}`}
        title={`Use ${name} in the material: click, or drag it to a step`}
        onClick={use}
        sx={{ display: 'block', width: '100%', p: 0, border: 'none', background: 'none', cursor: 'pointer' }}
      >
        <SourcePicture source={source} size={104} />
      </Box>
      <Box sx={{ px: 0.75, py: 0.5 }}>
        <Typography
          component={Link}
          to={`/projects/${projectId}/sources/${id}`}
          noWrap
          title={`Open ${name}, ${String(width)} x ${String(height)}`}
          sx={{
            display: 'block',
            color: 'text.primary',
            textDecoration: 'none',
            '&:hover': { textDecoration: 'underline' },
          }}
        >
          {name}
        </Typography>
        <Typography variant="caption" component="p" noWrap title={names.join(', ')}>
          {names.length > 0 ? `used as ${names.join(', ')}` : 'not used here'}
        </Typography>
      </Box>
    </Box>
  );
}
