import { Box, Button, InputBase, Typography } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { sentence, type Material } from '../api/client.ts';
import { supplyOf } from '../project/supply.ts';
import { ConfirmDialog, NameDialog } from '../ui/dialogs.tsx';
import { MaterialCard } from './MaterialCard.tsx';
import { PackagesDialog } from './PackagesDialog.tsx';
import { NewMaterialDialog } from './NewMaterialDialog.tsx';
import { download, zipOf } from '../project/project-zip.ts';
import { shelfActions, whenWritten, type ShelfProject } from './shelf-store.ts';

/** What a section asks of the page around it: a dialog, or words below, with an undo where there is one. */
export interface ShelfHost {
  readonly ask: (dialog: ReactElement | undefined) => void;
  readonly say: (words: string, undo?: () => Promise<unknown>) => void;
}

const counted = (count: number): string => (count === 1 ? '1 material' : `${String(count)} materials`);

/**
 * A project on the Shelf: its notes, what can be done with it, and its materials, of which those that fit a search are
 * shown.
 */
export function ProjectSection({
  shown,
  search,
  host,
}: {
  readonly shown: ShelfProject;
  readonly search: string;
  readonly host: ShelfHost;
}): ReactElement | null {
  const { project, materials, sources } = shown;
  const navigate = useNavigate();
  const supply = useMemo(() => supplyOf(() => sources), [sources]);
  const [exporting, setExporting] = useState(false);
  const wanted = search.trim().toLowerCase();
  const found = materials.filter(
    (m) => wanted === '' || m.title.toLowerCase().includes(wanted) || m.text.toLowerCase().includes(wanted),
  );
  if (wanted !== '' && found.length === 0 && !project.name.toLowerCase().includes(wanted)) return null;
  const close = (): void => {
    host.ask(undefined);
  };
  const exportZip = async (): Promise<void> => {
    setExporting(true);
    try {
      download(await zipOf(await whenWritten(project)), `${project.name}.zip`);
    } catch (error) {
      host.say(`The project could not be exported. ${sentence(error)}`);
    } finally {
      setExporting(false);
    }
  };
  const actions = {
    rename: (m: Material) => {
      host.ask(
        <NameDialog
          title="Rename the material"
          verb="Rename"
          label="Title"
          start={m.title}
          close={close}
          act={(title) => shelfActions.renameMaterial(m, title)}
        />,
      );
    },
    duplicate: (m: Material) => {
      shelfActions.duplicateMaterial(m).then(
        () => {
          host.say(`${m.title} copied.`);
        },
        (error: unknown) => {
          host.say(sentence(error));
        },
      );
    },
    remove: (m: Material) => {
      shelfActions.deleteMaterial(m).then(
        () => {
          host.say(`${m.title} was deleted.`, () => shelfActions.restoreMaterial(m));
        },
        (error: unknown) => {
          host.say(sentence(error));
        },
      );
    },
  };
  return (
    <Box component="section" aria-label={project.name} sx={{ p: 2, '& + &': { borderTop: 1, borderColor: 'divider' } }}>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 1, mb: 1 }}>
        <Typography variant="h2">{project.name}</Typography>
        <Typography sx={{ color: 'text.secondary', mr: 1 }}>{counted(materials.length)}</Typography>
        <Button
          variant="contained"
          onClick={() => {
            host.ask(
              <NewMaterialDialog
                project={project}
                materials={materials}
                supply={supply}
                close={close}
                made={(m) => {
                  void navigate(`/materials/${m.id}`);
                }}
              />,
            );
          }}
        >
          New material
        </Button>
        <Button component={Link} to={`/projects/${project.id}/sources`} variant="outlined">
          Sources ({sources.length})
        </Button>
        <Button component={Link} to={`/projects/${project.id}/sets`} variant="outlined">
          Sets
        </Button>
        <Button component={Link} to={`/projects/${project.id}/bakes`} variant="outlined">
          Bakes
        </Button>
        <Button
          disabled={materials.length === 0}
          onClick={() => {
            host.ask(<PackagesDialog project={project} materials={materials} close={close} />);
          }}
        >
          Export packages
        </Button>
        <Button disabled={exporting} onClick={() => void exportZip()}>
          {exporting ? 'Packing' : 'Export as zip'}
        </Button>
        <Button
          onClick={() => {
            host.ask(
              <NameDialog
                title="Rename the project"
                verb="Rename"
                label="Name"
                start={project.name}
                close={close}
                act={(name) => shelfActions.renameProject(project, name)}
              />,
            );
          }}
        >
          Rename
        </Button>
        <Button
          onClick={() => {
            host.ask(
              <ConfirmDialog
                title={`Delete ${project.name}?`}
                verb="Delete project"
                detail={`Its ${counted(materials.length)}, with every revision, and its sources, meshes, sets and bakes are deleted too. This cannot be undone.`}
                close={close}
                act={() => shelfActions.deleteProject(project)}
              />,
            );
          }}
        >
          Delete
        </Button>
      </Box>
      <Notes shown={shown} host={host} />
      {materials.length === 0 ? (
        <Typography sx={{ color: 'text.secondary' }}>No materials yet. &quot;New material&quot; starts one.</Typography>
      ) : (
        <Box
          component="ul"
          sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(192px, 1fr))', gap: 1.5 }}
        >
          {found.map((material) => (
            <MaterialCard key={material.id} material={material} sources={supply} refs={sources} actions={actions} />
          ))}
        </Box>
      )}
    </Box>
  );
}

/** A few words on the project; written when the field is left. */
function Notes({ shown: { project }, host }: { readonly shown: ShelfProject; readonly host: ShelfHost }): ReactElement {
  const [typed, setTyped] = useState<string>();
  return (
    <InputBase
      multiline
      fullWidth
      value={typed ?? project.notes}
      placeholder="Notes on this project"
      slotProps={{ input: { 'aria-label': `Notes on ${project.name}`, maxLength: 20_000 } }}
      onChange={(event) => {
        setTyped(event.target.value);
      }}
      onBlur={() => {
        if (typed === undefined || typed === project.notes) return;
        shelfActions.writeNotes(project, typed).then(
          () => {
            setTyped(undefined);
          },
          (error: unknown) => {
            host.say(`The notes are not saved. ${sentence(error)}`);
          },
        );
      }}
      sx={{
        mb: 1.5,
        px: 1,
        py: 0.5,
        fontSize: 13,
        border: 1,
        borderColor: 'transparent',
        borderRadius: '3px',
        '&:hover, &.Mui-focused': { borderColor: 'divider' },
        maxWidth: 900,
      }}
    />
  );
}
