import { IDENTITY, instancesOf, SHAPES, transformed, type Vector } from '@estela/core';
import { Box, Button, ListSubheader, Menu, MenuItem, Typography } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type PointerEvent, type ReactElement } from 'react';
import { useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { api, sentence, type Material, type Project, type SetBody, type SetItem } from '../api/client.ts';
import { SavingWords, UndoRedo } from '../app/KeptBar.tsx';
import { createKept, type Kept } from '../app/kept.ts';
import { NotFoundPage, Notice, Place, TopBar } from '../app/Page.tsx';
import { tokens } from '../app/tokens.ts';
import { createClock } from '../bench/clock-store.ts';
import { MeshView, type MeshViewHands } from '../bench/stage/MeshView.tsx';
import type { Standpoint } from '../bench/stage/orbit.ts';
import { boxAbout, lensLooks } from '../bench/stage/paint.ts';
import { USUAL } from '../bench/stage/use-placed.ts';
import { extentOf } from '../meshes/mesh-data.ts';
import { meshesOf } from '../meshes/meshes-store.ts';
import { ConfirmDialog, NameDialog } from '../shelf/dialogs.tsx';
import { sourcesOf } from '../sources/sources-store.ts';
import { supplyOf } from '../sources/supply.ts';
import { Inspector } from './Inspector.tsx';
import { SetBar } from './SetBar.tsx';
import { doubled, nameOfItem, newItem, SHAPE_NAMES, withItem, withoutItem } from './set-edits.ts';
import { placeSet, type PlacedSet } from './set-items.ts';
import { sceneOf } from './set-scene.ts';
import { setsOf } from './sets-store.ts';

interface Opened {
  readonly kept: Kept<SetBody>;
  readonly project: Project;
  readonly materials: readonly Material[];
}

/** Meshes placed together on one Stage, each with a material and variant. */
export function SetPage(): ReactElement {
  const { projectId = '', setId = '' } = useParams();
  const store = setsOf(projectId);
  const [opened, setOpened] = useState<Opened>();
  const [problem, setProblem] = useState<'missing' | { readonly message: string }>();
  const [round, setRound] = useState(0);
  useEffect(() => {
    let gone = false;
    const open = async (): Promise<void> => {
      await Promise.all([store.load(), meshesOf(projectId).load(), sourcesOf(projectId).load()]);
      const { sets, status, message } = store.getState();
      if (status === 'failed') throw new Error(message);
      const set = sets.find((s) => s.id === setId);
      const [project, materials] = await Promise.all([api.project(projectId), api.materials(projectId)]);
      if (gone) return;
      if (!set) {
        setProblem('missing');
        return;
      }
      const { name, items, scene, view } = set;
      const kept = createKept<SetBody>({ name, items, scene, view }, async (body) => {
        const now = store.getState().sets.find((s) => s.id === setId);
        if (!now) throw new Error('This set is gone.');
        await store.save({ ...now, ...body });
      });
      setOpened({ kept, project, materials });
    };
    open().catch((error: unknown) => {
      if (!gone) setProblem({ message: sentence(error) });
    });
    return () => {
      gone = true;
    };
  }, [store, projectId, setId, round]);
  const again = (): void => {
    setProblem(undefined);
    setOpened(undefined);
    setRound(round + 1);
  };
  if (problem === 'missing') return <NotFoundPage />;
  if (problem)
    return (
      <>
        <TopBar />
        <Notice
          alert
          title="The set cannot be opened"
          detail={problem.message}
          action={
            <Button variant="outlined" onClick={again}>
              Try again
            </Button>
          }
        />
      </>
    );
  if (!opened)
    return (
      <>
        <TopBar />
        <Notice busy title="Opening the set" />
      </>
    );
  return <SetView {...opened} setId={setId} reopen={again} />;
}

function SetView({ kept, project, materials, setId, reopen }: Opened & { readonly setId: string; readonly reopen: () => void }): ReactElement {
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
  useEffect(() => {
    document.title = `${set.name} - Estela`;
    return () => {
      document.title = 'Estela';
    };
  }, [set.name]);
  useEffect(() => {
    let gone = false;
    void placeSet(set.items, meshes, materials).then((found) => {
      if (!gone) setPlaced(found);
    });
    return () => {
      gone = true;
    };
  }, [set.items, meshes, materials]);
  const chosenMesh = placed?.items.find((i) => i.key === chosenId && !i.film)?.mesh;
  const extent = useMemo(() => chosenMesh && extentOf(chosenMesh), [chosenMesh]);
  const items = useMemo(() => {
    const all = placed?.items ?? [];
    const one = all.find((i) => i.key === chosenId && !i.film);
    return one?.placing && extent
      ? [...all, { key: 'chosen thing', mesh: boxAbout(extent.middle, extent.size), look: lensLooks().paint, placing: { ...one.placing, copies: null } }]
      : all;
  }, [placed, chosenId, extent]);
  const scene = useMemo(() => sceneOf(set), [set]);
  // The view that is kept, at first; later ones are where the hand left them.
  const [stand, setStand] = useState<Standpoint>(() => (set.view as unknown as Standpoint | null) ?? USUAL);
  const change = (title: string, next: Partial<SetItem>, group?: string): void => {
    if (chosen) kept.become(title, withItem(kept.settled(), { ...chosen, ...next }), group);
  };
  const close = (): void => {
    setDialog(undefined);
  };

  const drag = useRef<{ readonly item: SetItem; readonly from: Vector }>(undefined);
  const pressed = useRef<readonly [number, number]>([0, 0]);
  const shares = (event: PointerEvent<HTMLElement>): readonly [number, number] => {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    return [(event.clientX - left) / width, (event.clientY - top) / height];
  };
  const pick = (event: PointerEvent<HTMLElement>): string | undefined => {
    const things = (hands?.controller.placed ?? []).filter(({ item }) => item.key !== 'chosen thing');
    const picked = hands?.orbit.pick(
      things.map(({ item, models }) => ({ mesh: item.mesh, models })),
      ...shares(event),
    );
    return picked && things[picked.index]?.item.key;
  };
  const down = (event: PointerEvent<HTMLElement>): void => {
    pressed.current = [event.clientX, event.clientY];
    if (event.button !== 0 || !hands || !chosen || pick(event) !== chosen.id) return;
    const from = hands.orbit.placeOn(chosen.position, event.shiftKey ? 'upright' : 'level', ...shares(event));
    if (!from) return;
    // What is chosen is moved; the view is turned beside it.
    hands.orbit.enable(false);
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { item: chosen, from };
  };
  const move = (event: PointerEvent<HTMLElement>): void => {
    const at = drag.current;
    if (!at || !hands) return;
    const way = event.shiftKey ? 'upright' : 'level';
    const to = hands.orbit.placeOn(at.item.position, way, ...shares(event));
    if (!to) return;
    const round = (m: number): number => Math.round(Math.min(Math.max(m, -50), 50) * 100) / 100;
    const position = at.item.position.map((p, k) => ((way === 'level') === (k === 1) ? p : round(p + to[k]! - at.from[k]!))) as unknown as Vector;
    kept.preview(withItem(kept.settled(), { ...at.item, position }));
  };
  const up = (event: PointerEvent<HTMLElement>): void => {
    hands?.orbit.enable(true);
    const wasDrag = drag.current;
    drag.current = undefined;
    const still = Math.hypot(event.clientX - pressed.current[0], event.clientY - pressed.current[1]) < 4;
    if (wasDrag && !still) kept.commit('move');
    else {
      if (wasDrag) kept.preview(undefined);
      if (still) choose(pick(event) ?? chosenId);
    }
  };
  const lookAtAll = (): void => {
    const boxes = (placed?.items ?? [])
      .filter((i) => !i.film)
      .flatMap((i) => {
        const { middle, radius } = extentOf(i.mesh);
        const models = i.placing ? instancesOf(i.placing) : [IDENTITY];
        return models.map((m) => ({ middle: transformed(m, middle), radius: radius * (i.placing?.scale ?? 1) }));
      });
    if (boxes.length === 0) return;
    const middle = [0, 1, 2].map((k) => boxes.reduce((sum, b) => sum + b.middle[k]!, 0) / boxes.length) as unknown as Vector;
    hands?.orbit.frame(middle, Math.max(...boxes.map((b) => Math.hypot(b.middle[0] - middle[0], b.middle[1] - middle[1], b.middle[2] - middle[2]) + b.radius)));
  };

  return (
    <>
      <TopBar>
        <Place links={[{ to: '/', label: 'Shelf' }, { label: project.name }, { to: `/projects/${project.id}/sets`, label: 'Sets' }]} here={set.name} />
        <SavingWords kept={kept} refresh={store.load} reopen={reopen} />
        <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <UndoRedo kept={kept} />
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
                  detail="Its materials and meshes stay. This cannot be undone."
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
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box component="section" aria-label="Things" sx={{ width: 372, flex: 'none', minHeight: 0, overflow: 'auto', borderRight: 1, borderColor: 'divider' }}>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, px: 1, height: 36 }}>
            <Typography sx={{ fontWeight: 600, mr: 'auto' }}>{set.items.length === 1 ? '1 thing' : `${String(set.items.length)} things`}</Typography>
            <AddButton
              meshes={meshes.map(({ id, name }) => ({ id, name }))}
              add={(mesh) => {
                const item = newItem(set.items, mesh, chosen?.material ?? materials[0]?.id ?? null);
                kept.become('put a thing there', { ...kept.settled(), items: [...set.items, item] });
                choose(item.id);
              }}
            />
            <Button
              disabled={!chosen}
              onClick={() => {
                if (!chosen) return;
                const { set: next, id } = doubled(kept.settled(), chosen);
                kept.become('duplicate', next);
                choose(id);
              }}
            >
              Duplicate
            </Button>
            <Button
              disabled={!chosen}
              onClick={() => {
                if (!chosen) return;
                kept.become('take away', withoutItem(kept.settled(), chosen.id));
                choose(set.items.find((i) => i.id !== chosen.id)?.id);
              }}
            >
              Remove
            </Button>
          </Box>
          <Box component="ul" aria-label="Things on the set" sx={{ m: 0, p: 0, listStyle: 'none', borderTop: 1, borderBottom: 1, borderColor: 'divider' }}>
            {set.items.length === 0 && <Box sx={{ p: 1.5, color: 'text.secondary' }}>Nothing stands here yet. Add a shape, or a mesh of the project.</Box>}
            {set.items.map((item) => {
              const [mesh, dress] = nameOfItem(item, meshes, materials);
              return (
                <li key={item.id}>
                  <Button
                    fullWidth
                    aria-pressed={item.id === chosenId}
                    onClick={() => {
                      choose(item.id);
                    }}
                    sx={{
                      justifyContent: 'flex-start',
                      textAlign: 'left',
                      borderRadius: 0,
                      px: 1.5,
                      bgcolor: item.id === chosenId ? tokens.raise : 'transparent',
                      fontWeight: 400,
                    }}
                  >
                    {mesh}
                    <Box component="span" sx={{ ml: 1, color: 'text.secondary', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                      {dress}
                      {item.copies ? `, ${String(item.copies.count)} times` : ''}
                    </Box>
                  </Button>
                </li>
              );
            })}
          </Box>
          {chosen && <Inspector key={chosen.id} item={chosen} meshes={meshes} materials={materials} width={extent?.size[0]} change={change} />}
        </Box>
        <Box component="section" aria-label="Stage" sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
          <SetBar
            set={set}
            clock={clock}
            drawn={drawn}
            change={(title, next, group) => {
              kept.become(title, { ...kept.settled(), ...next }, group);
            }}
            lookAtAll={lookAtAll}
            keepView={() => {
              if (!hands) return;
              const at = hands.orbit.standpoint();
              setStand(at);
              kept.become('keep the view', { ...kept.settled(), view: at });
            }}
          />
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
            onPointerDown={down}
            onPointerMove={move}
            onPointerUp={up}
          >
            {placed && placed.problems.length > 0 && (
              <Box
                role="status"
                sx={{
                  position: 'absolute',
                  left: 8,
                  bottom: 8,
                  px: 1,
                  py: 0.5,
                  bgcolor: tokens.floor,
                  border: 1,
                  borderColor: tokens.coral,
                  borderRadius: '3px',
                }}
              >
                {placed.problems.join(' ')}
              </Box>
            )}
          </MeshView>
        </Box>
      </Box>
    </>
  );
}

function AddButton({
  meshes,
  add,
}: {
  readonly meshes: readonly { readonly id: string; readonly name: string }[];
  readonly add: (mesh: string) => void;
}): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const item = (key: string, label: string, about?: string): ReactElement => (
    <MenuItem
      key={key}
      onClick={() => {
        setAnchor(null);
        add(key);
      }}
    >
      {label}
      {about !== undefined && (
        <Box component="span" sx={{ ml: 1.5, color: 'text.secondary' }}>
          {about}
        </Box>
      )}
    </MenuItem>
  );
  return (
    <>
      <Button
        variant="contained"
        aria-haspopup="menu"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
      >
        Add a thing
      </Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
        }}
      >
        {SHAPE_NAMES.map((name) => item(name, SHAPES[name].label, SHAPES[name].about))}
        {meshes.length > 0 && <ListSubheader>Meshes of the project</ListSubheader>}
        {meshes.map(({ id, name }) => item(id, name))}
      </Menu>
    </>
  );
}
