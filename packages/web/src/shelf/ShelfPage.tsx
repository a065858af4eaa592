import { Box, Button, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { Notice, TopBar } from '../app/Page.tsx';
import { supplyOf } from '../sources/supply.ts';
import { ConfirmDialog, NameDialog } from './dialogs.tsx';
import { MaterialCard } from './MaterialCard.tsx';
import { loadShelf, shelf, shelfActions, type ShelfProject } from './shelf-store.ts';

/** What is being asked of the user, if anything. */
type Ask = ReactElement | undefined;

/** Home: the projects and their materials, each card playing. */
export function ShelfPage(): ReactElement {
  const { status, message, projects } = useStore(shelf);
  const [ask, setAsk] = useState<Ask>();
  const close = (): void => {
    setAsk(undefined);
  };

  useEffect(() => {
    const abort = new AbortController();
    void loadShelf(abort.signal);
    return () => {
      abort.abort();
    };
  }, []);

  const newProject = (): void => {
    setAsk(<NameDialog title="New project" verb="Make project" label="Name" start="" close={close} act={shelfActions.createProject} />);
  };
  const newProjectButton = (
    <Button variant="outlined" onClick={newProject}>
      New project
    </Button>
  );

  return (
    <>
      <TopBar>
        <Typography component="h1" sx={{ color: 'text.secondary' }}>
          Shelf
        </Typography>
        <Box sx={{ ml: 'auto' }}>{status === 'ready' && newProjectButton}</Box>
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, overflow: 'auto', display: 'flex', flexDirection: 'column' }}>
        {status === 'loading' && <Notice busy title="Opening the Shelf" />}
        {status === 'failed' && (
          <Notice
            alert
            title="The Shelf cannot be opened"
            detail={message}
            action={
              <Button variant="outlined" onClick={() => void loadShelf()}>
                Try again
              </Button>
            }
          />
        )}
        {status === 'ready' && projects.length === 0 && (
          <Notice title="There is no project yet" detail="A project holds materials and the textures they use." action={newProjectButton} />
        )}
        {status === 'ready' && projects.map((p) => <ProjectSection key={p.project.id} shown={p} ask={setAsk} close={close} />)}
      </Box>
      {ask}
    </>
  );
}

function ProjectSection({ shown, ask, close }: { readonly shown: ShelfProject; readonly ask: (ask: Ask) => void; readonly close: () => void }): ReactElement {
  const { project, materials, sources } = shown;
  const navigate = useNavigate();
  const supply = useMemo(() => supplyOf(() => sources), [sources]);
  const newMaterial = (): void => {
    ask(
      <NameDialog
        title={`New material in ${project.name}`}
        verb="Make material"
        label="Title"
        start="Untitled"
        close={close}
        act={async (title) => {
          const material = await shelfActions.createMaterial(project, title);
          void navigate(`/materials/${material.id}`);
        }}
      />,
    );
  };
  return (
    <Box component="section" aria-label={project.name} sx={{ p: 2, '& + &': { borderTop: 1, borderColor: 'divider' } }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1.5 }}>
        <Typography variant="h2">{project.name}</Typography>
        <Typography sx={{ color: 'text.secondary', mr: 1 }}>{materials.length === 1 ? '1 material' : `${String(materials.length)} materials`}</Typography>
        <Button variant="contained" onClick={newMaterial}>
          New material
        </Button>
        <Button component={Link} to={`/projects/${project.id}/sources`} variant="outlined">
          Sources ({sources.length})
        </Button>
        <Button
          onClick={() => {
            ask(
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
            ask(
              <ConfirmDialog
                title={`Delete ${project.name}?`}
                verb="Delete project"
                detail={`${materials.length === 1 ? 'Its 1 material' : `Its ${String(materials.length)} materials`}, with every revision, and its sources go with it. This cannot be undone.`}
                close={close}
                act={() => shelfActions.deleteProject(project)}
              />,
            );
          }}
        >
          Delete
        </Button>
      </Box>
      {materials.length === 0 ? (
        <Typography sx={{ color: 'text.secondary' }}>No materials yet. &quot;New material&quot; starts one that moves at once.</Typography>
      ) : (
        <Box component="ul" sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(192px, 1fr))', gap: 1.5 }}>
          {materials.map((material) => (
            <MaterialCard
              key={material.id}
              material={material}
              sources={supply}
              actions={{
                rename: (m) => {
                  ask(
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
                remove: (m) => {
                  ask(
                    <ConfirmDialog
                      title={`Delete ${m.title}?`}
                      verb="Delete material"
                      detail="It goes with every saved revision. This cannot be undone."
                      close={close}
                      act={() => shelfActions.deleteMaterial(m)}
                    />,
                  );
                },
              }}
            />
          ))}
        </Box>
      )}
    </Box>
  );
}
