import { Box, Button, Menu, MenuItem } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { api, sentence, type Material, type Project, type StoredMesh } from '../api/client.ts';
import { letGo, stillOpen } from '../ui/held-open.ts';
import { BroughtBack, SavingWords, UndoRedo, useHeldOpen } from '../history/HistoryBar.tsx';
import { useOpening } from '../ui/opening.tsx';
import { Place, TopBar } from '../ui/Page.tsx';
import { useTitle } from '../ui/title.ts';
import { tokens } from '../ui/tokens.ts';
import { meshData } from '../project/mesh-data.ts';
import { meshesOf, type MeshesStore } from '../project/meshes-store.ts';
import { ConfirmDialog, NameDialog } from '../ui/dialogs.tsx';
import { download } from '../project/project-zip.ts';
import { sourcesOf } from '../project/sources-store.ts';
import { meshFiles } from '../workers/meshes.ts';
import { refitter } from '../workers/refitter.ts';
import { FitGlbDialog } from './FitGlbDialog.tsx';
import { FitStage } from './FitStage.tsx';
import { FitTools } from './FitTools.tsx';
import { openFit, type OpenFit } from './open-fit.ts';
import { PacePanel } from './PacePanel.tsx';
import { UvLayout } from './UvLayout.tsx';

interface Opened extends OpenFit {
  readonly mesh: StoredMesh;
  readonly project: Project;
  readonly materials: readonly Material[];
}

/** Where a mesh's UVs are made to suit a motion. */
export function FitPage(): ReactElement {
  const { projectId = '', meshId = '' } = useParams();
  const store = meshesOf(projectId);
  const key = `mesh ${meshId}`;
  const { opened, page, again } = useOpening<Opened>('mesh', meshId, async () => {
    await store.load();
    const { meshes, status, message } = store.getState();
    if (status === 'failed') throw new Error(message);
    const mesh = meshes.find((m) => m.id === meshId);
    if (!mesh) return undefined;
    const left = stillOpen(key) as OpenFit | undefined;
    const [data, project, materials] = await Promise.all([
      left ? undefined : meshData(mesh),
      api.project(projectId),
      api.materials(projectId),
    ]);
    await sourcesOf(projectId).load();
    const open = left ?? (data && (await openFit(store, mesh, data, refitter())));
    return open && { ...open, mesh, project, materials };
  });
  useTitle(opened ? `Fit ${opened.mesh.name}` : 'Fit');
  const held = useMemo(() => opened && { ...opened, kept: opened.fit.kept, flush: opened.fit.finish }, [opened]);
  useHeldOpen(key, held);
  if (!opened) return page;
  const { fit, project, materials } = opened;
  return (
    <>
      <FitBar
        {...opened}
        store={store}
        reopen={() => {
          letGo(key);
          again();
        }}
      />
      {opened.restored && <BroughtBack />}
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <Box
            component="section"
            aria-label="UVs"
            sx={{
              width: '50%',
              minWidth: 0,
              display: 'flex',
              flexDirection: 'column',
              borderRight: 1,
              borderColor: 'divider',
            }}
          >
            <FitTools fit={fit} />
            <UvLayout fit={fit} />
          </Box>
          <FitStage fit={fit} materials={materials} sources={sourcesOf(project.id)} />
        </Box>
        <PacePanel fit={fit} />
      </Box>
    </>
  );
}

function FitBar({
  fit,
  refresh,
  rename,
  mesh,
  project,
  materials,
  store,
  reopen,
}: Opened & { readonly store: MeshesStore; readonly reopen: () => void }): ReactElement {
  const name = useStore(store, (s) => s.meshes.find((m) => m.id === mesh.id)?.name ?? mesh.name);
  const [dialog, setDialog] = useState<ReactElement>();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [exporting, setExporting] = useState<HTMLElement | null>(null);
  const [problem, setProblem] = useState('');
  const navigate = useNavigate();
  const send = async (kind: 'glb' | 'obj'): Promise<void> => {
    setProblem('');
    try {
      const { mesh: data } = fit.kept.getState().value;
      download(
        kind === 'glb'
          ? new Blob([await meshFiles().glb(data, name)], { type: 'model/gltf-binary' })
          : new Blob([await meshFiles().obj(data, name)], { type: 'model/obj' }),
        `${name}.${kind}`,
      );
    } catch (error) {
      setProblem(`It could not be exported. ${sentence(error)}`);
    }
  };
  const close = (): void => {
    setDialog(undefined);
  };
  return (
    <TopBar>
      <Place
        links={[
          { to: '/', label: 'Shelf' },
          { label: project.name },
          { to: `/projects/${project.id}/sources`, label: 'Sources' },
        ]}
        here={name}
      />
      <SavingWords kept={fit.kept} refresh={refresh} reopen={reopen} />
      {problem !== '' && (
        <Box role="alert" sx={{ color: tokens.coral }}>
          {problem}
        </Box>
      )}
      <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <UndoRedo kept={fit.kept} />
        <Button
          variant="outlined"
          aria-haspopup="menu"
          onClick={(event) => {
            setExporting(event.currentTarget);
          }}
        >
          Export GLB
        </Button>
        <Button variant="outlined" onClick={() => void send('obj')}>
          Export OBJ
        </Button>
        <Button
          aria-haspopup="menu"
          onClick={(event) => {
            setAnchor(event.currentTarget);
          }}
        >
          More
        </Button>
      </Box>
      <Menu
        open={exporting !== null}
        anchorEl={exporting}
        onClose={() => {
          setExporting(null);
        }}
        onClick={() => {
          setExporting(null);
        }}
      >
        <MenuItem onClick={() => void send('glb')}>The mesh alone</MenuItem>
        <MenuItem
          disabled={materials.length === 0}
          onClick={() => {
            setDialog(<FitGlbDialog fit={fit} mesh={{ id: mesh.id, name }} materials={materials} close={close} />);
          }}
        >
          With a material
        </MenuItem>
      </Menu>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
        }}
        onClick={() => {
          setAnchor(null);
        }}
      >
        <MenuItem
          onClick={() => {
            setDialog(
              <NameDialog title="Rename the mesh" verb="Rename" label="Name" start={name} close={close} act={rename} />,
            );
          }}
        >
          Rename
        </MenuItem>
        <MenuItem
          onClick={() => {
            setDialog(
              <ConfirmDialog
                title={`Delete ${name}?`}
                verb="Delete mesh"
                detail="Sets that use it will show it as missing. Undo in Sources restores it."
                close={close}
                act={async () => {
                  const gone = store.getState().meshes.find((m) => m.id === mesh.id);
                  await store.remove(mesh.id);
                  if (gone)
                    sourcesOf(project.id).remember({
                      title: `delete ${gone.name}`,
                      undo: () => store.bringBack(gone),
                      redo: () => store.remove(gone.id),
                    });
                  await navigate(`/projects/${project.id}/sources`);
                }}
              />,
            );
          }}
        >
          Delete
        </MenuItem>
      </Menu>
      {dialog}
    </TopBar>
  );
}
