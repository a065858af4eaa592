import { Box, Button } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { useTitle } from '../ui/title.ts';
import { api, type Material, type Project, type SetItem } from '../api/client.ts';
import { savedNow } from '../history/saved-now.ts';
import { letGo, stillOpen } from '../ui/held-open.ts';
import { BroughtBack, SavingWords, UndoRedo, useHeldOpen } from '../history/HistoryBar.tsx';
import { useOpening } from '../ui/opening.tsx';
import { Place, TopBar } from '../ui/Page.tsx';
import { createClock } from '../material/clock-store.ts';
import { StageNote } from '../viewport/Legend.tsx';
import { MeshView, type MeshViewHands } from '../viewport/MeshView.tsx';
import type { CameraPose } from '../viewport/orbit.ts';
import { boxAbout, lensLooks } from '../viewport/paint.ts';
import { USUAL } from '../viewport/use-placed.ts';
import { extentOf } from '../project/mesh-data.ts';
import { GlbDialog } from '../project/glb/GlbDialog.tsx';
import { MeshDrop } from '../project/MeshDrop.tsx';
import { meshesOf } from '../project/meshes-store.ts';
import { ConfirmDialog, NameDialog } from '../ui/dialogs.tsx';
import { sourcesOf } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import { Inspector } from './Inspector.tsx';
import { SetBar } from './SetBar.tsx';
import { openSet, type OpenSet } from './open-set.ts';
import { newItem, withItem } from '../project/set-edits.ts';
import { placeSet, type PlacedSet } from '../viewport/set-items.ts';
import { sceneOf, standpointOf } from '../viewport/set-scene.ts';
import { setsOf } from '../project/sets-store.ts';
import { Things } from './Things.tsx';
import { ballAbout, useSetHands } from './use-set-hands.ts';

interface Opened extends OpenSet {
  readonly project: Project;
  readonly materials: readonly Material[];
}

/** Meshes placed together on one Stage, each with a material and variant. */
export function SetPage(): ReactElement {
  const { projectId = '', setId = '' } = useParams();
  const store = setsOf(projectId);
  const key = `set ${setId}`;
  const { opened, page, again } = useOpening<Opened>('set', setId, async () => {
    await Promise.all([store.load(), meshesOf(projectId).load(), sourcesOf(projectId).load()]);
    const { sets, status, message } = store.getState();
    if (status === 'failed') throw new Error(message);
    const set = sets.find((s) => s.id === setId);
    if (!set) return undefined;
    const [project, materials] = await Promise.all([api.project(projectId), api.materials(projectId)]);
    return { ...((stillOpen(key) as OpenSet | undefined) ?? (await openSet(store, set))), project, materials };
  });
  const held = useMemo(() => opened && { ...opened, flush: opened.kept.flush }, [opened]);
  useHeldOpen(key, held);
  if (!opened) return page;
  const reopen = (): void => {
    letGo(key);
    again();
  };
  return <SetView {...opened} setId={setId} reopen={reopen} />;
}

function SetView({
  kept,
  refresh,
  project,
  materials,
  setId,
  restored,
  reopen,
}: Opened & { readonly setId: string; readonly reopen: () => void }): ReactElement {
  const store = setsOf(project.id);
  const set = useStore(kept, (s) => s.value);
  const meshes = useStore(meshesOf(project.id), (s) => s.meshes);
  const sources = sourcesOf(project.id);
  const version = useStore(sources, (s) => s.sources);
  const supply = useMemo(() => supplyOf(() => sources.getState().sources), [sources]);
  const still = useMemo(() => matchMedia('(prefers-reduced-motion: reduce)').matches, []);
  // Its materials have loops of their own; an hour is longer than is looked at.
  const clock = useMemo(() => createClock(3600, 30, !still), [still]);
  const [chosenId, choose] = useState<string | undefined>(set.items[0]?.id);
  const chosen = set.items.find((i) => i.id === chosenId);
  const [placed, setPlaced] = useState<PlacedSet>();
  const [hands, setHands] = useState<MeshViewHands>();
  const [drawn, setDrawn] = useState<readonly [number, number | undefined]>([1, undefined]);
  const [dialog, setDialog] = useState<ReactElement>();
  const navigate = useNavigate();
  useTitle(set.name);
  useEffect(() => {
    let gone = false;
    void placeSet(set.items, meshes, materials).then((found) => {
      if (!gone) setPlaced(found);
    });
    return () => {
      gone = true;
    };
  }, [set.items, meshes, materials]);
  const chosenMesh = placed?.items.find((i) => i.key === chosenId && !i.overlay)?.mesh;
  const extent = useMemo(() => chosenMesh && extentOf(chosenMesh), [chosenMesh]);
  const box = useMemo(() => extent && boxAbout(extent.middle, extent.size), [extent]);
  const items = useMemo(() => {
    const all = placed?.items ?? [];
    const one = all.find((i) => i.key === chosenId && !i.overlay);
    return one?.placing && box
      ? [
          ...all,
          { key: 'mark', mark: true, mesh: box, look: lensLooks().paint, placing: { ...one.placing, copies: null } },
        ]
      : all;
  }, [placed, chosenId, box]);
  const scene = useMemo(() => sceneOf(set), [set]);
  // The view that is kept, at first; later ones are where the hand left them.
  const [stand, setStand] = useState<CameraPose>(() => standpointOf(set) ?? USUAL);
  const change = (title: string, next: Partial<SetItem>, group?: string): void => {
    if (chosen) kept.become(title, withItem(kept.settled(), { ...chosen, ...next }), group);
  };
  const close = (): void => {
    setDialog(undefined);
  };
  const put = (mesh: string): void => {
    const now = kept.settled();
    const item = newItem(now.items, mesh, chosen?.material ?? materials[0]?.id ?? null);
    kept.become('add an object', { ...now, items: [...now.items, item] });
    choose(item.id);
  };

  const hand = useSetHands(kept, hands, chosen, choose);

  return (
    <>
      <TopBar>
        <Place
          links={[
            { to: '/', label: 'Shelf' },
            { label: project.name },
            { to: `/projects/${project.id}/sets`, label: 'Sets' },
          ]}
          here={set.name}
        />
        <SavingWords kept={kept} refresh={refresh} reopen={reopen} />
        <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <UndoRedo kept={kept} />
          <Button
            variant="outlined"
            disabled={set.items.length === 0}
            onClick={() => {
              setDialog(
                <GlbDialog
                  title={`Export ${set.name}`}
                  start={{ instanced: false }}
                  before={() => savedNow(kept, kept.flush)}
                  address={`/api/sets/${setId}`}
                  close={close}
                />,
              );
            }}
          >
            Export GLB
          </Button>
          <Button
            onClick={() => {
              setDialog(
                <NameDialog
                  title="Rename the set"
                  verb="Rename"
                  label="Name"
                  start={set.name}
                  close={close}
                  act={(name) => {
                    kept.become('rename', { ...kept.settled(), name });
                    return kept.flush();
                  }}
                />,
              );
            }}
          >
            Rename
          </Button>
          <Button
            onClick={() => {
              setDialog(
                <ConfirmDialog
                  title={`Delete ${set.name}?`}
                  verb="Delete set"
                  detail="Its materials and meshes are kept. Undo in the list of sets restores it."
                  close={close}
                  act={async () => {
                    const now = store.getState().sets.find((s) => s.id === setId);
                    if (now) await store.remove(now);
                    await navigate(`/projects/${project.id}/sets`);
                  }}
                />,
              );
            }}
          >
            Delete
          </Button>
        </Box>
        {dialog}
      </TopBar>
      {restored && <BroughtBack />}
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box
          component="section"
          aria-label="Objects"
          sx={{ width: 372, flex: 'none', minHeight: 0, overflow: 'auto', borderRight: 1, borderColor: 'divider' }}
        >
          <Things
            kept={kept}
            items={set.items}
            chosen={chosen}
            choose={choose}
            put={put}
            meshes={meshes}
            materials={materials}
          />
          {chosen && (
            <Inspector
              key={chosen.id}
              item={chosen}
              meshes={meshes}
              materials={materials}
              width={extent?.size[0]}
              change={change}
            />
          )}
        </Box>
        <Box
          component="section"
          aria-label="Stage"
          sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}
        >
          <SetBar
            set={set}
            clock={clock}
            drawn={drawn}
            change={(title, next, group) => {
              kept.become(title, { ...kept.settled(), ...next }, group);
            }}
            lookAtAll={() => {
              const ball = ballAbout(placed?.items ?? []);
              if (ball) hands?.orbit.frame(ball.middle, ball.radius);
            }}
            keepView={() => {
              if (!hands) return;
              const at = hands.orbit.standpoint();
              setStand(at);
              kept.become('save the view', { ...kept.settled(), view: at });
            }}
          />
          <MeshDrop sources={sources} words="Drop to add this mesh to the set" take={put}>
            <MeshView
              items={items}
              scene={scene}
              clock={clock}
              supply={supply}
              version={version}
              stand={stand}
              label="The set"
              ready={setHands}
              drawn={(scale, milliseconds) => {
                setDrawn([scale, milliseconds]);
              }}
              hand={hand}
            >
              {placed && placed.problems.length > 0 && <StageNote wrong>{placed.problems.join(' ')}</StageNote>}
            </MeshView>
          </MeshDrop>
        </Box>
      </Box>
    </>
  );
}
