import { Box, Button, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useStore } from 'zustand';
import { useTitle } from '../ui/title.ts';
import { api, isMissing, sentence, type Material, type Project } from '../api/client.ts';
import { CardItem } from '../ui/CardItem.tsx';
import { NotFoundPage, Notice, Place, TopBar } from '../ui/Page.tsx';
import { tokens } from '../ui/tokens.ts';
import { meshesOf } from '../project/meshes-store.ts';
import { freeName, sourcesOf } from '../project/sources-store.ts';
import { EMPTY_SET, nameOfItem, newItem } from '../project/set-edits.ts';
import { SetPainter } from './SetPainter.tsx';
import { setsOf } from '../project/sets-store.ts';

/** All sets of a project. */
export function SetsPage(): ReactElement {
  const { projectId = '' } = useParams();
  const store = setsOf(projectId);
  const { sets, status, message, deleted } = useStore(store);
  const meshes = useStore(meshesOf(projectId), (s) => s.meshes);
  const [opened, setOpened] = useState<{ readonly project: Project; readonly materials: readonly Material[] }>();
  const [problem, setProblem] = useState<{ readonly missing: boolean; readonly message: string }>();
  const [refused, setRefused] = useState('');
  const [targets] = useState(() => new Map<string, HTMLCanvasElement>());
  const navigate = useNavigate();
  useEffect(() => {
    void store.load();
    Promise.all([api.project(projectId), api.materials(projectId)]).then(
      ([project, materials]) => {
        setOpened({ project, materials });
      },
      (error: unknown) => {
        setProblem({
          missing: isMissing(error),
          message: sentence(error),
        });
      },
    );
  }, [store, projectId]);
  useTitle('Sets');
  if (problem?.missing) return <NotFoundPage />;
  const failed = problem?.message ?? (status === 'failed' ? message : undefined);
  if (failed !== undefined)
    return (
      <>
        <TopBar />
        <Notice alert title="The sets cannot be opened" detail={failed} />
      </>
    );
  if (!opened || status === 'loading')
    return (
      <>
        <TopBar />
        <Notice busy title="Opening the sets" />
      </>
    );
  const { project, materials } = opened;
  const start = async (): Promise<void> => {
    const set = await store.create({
      name: freeName('new set', sets),
      ...EMPTY_SET,
      items: [newItem([], 'sphere', materials[0]?.id ?? null)],
    });
    await navigate(`/projects/${projectId}/sets/${set.id}`);
  };
  return (
    <>
      <TopBar>
        <Place links={[{ to: '/', label: 'Shelf' }, { label: project.name }]} here="Sets" />
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 2 }}>
          <Button
            variant="contained"
            onClick={() => {
              start().catch((error: unknown) => {
                setRefused(sentence(error));
              });
            }}
          >
            New set
          </Button>
          <Typography sx={{ color: 'text.secondary' }}>
            Meshes placed together, each with a material and a variant. The Bench can preview a material on a set.
          </Typography>
          {refused !== '' && (
            <Typography role="alert" sx={{ color: tokens.coral }}>
              {refused}
            </Typography>
          )}
        </Box>
        {deleted && (
          <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 2 }}>
            {deleted.name} was deleted.
            <Button
              variant="outlined"
              onClick={() => {
                store.bringBack(deleted).catch((error: unknown) => {
                  setRefused(sentence(error));
                });
              }}
            >
              Undo
            </Button>
          </Box>
        )}
        {sets.length === 0 && (
          <Notice
            title="No sets yet"
            detail="A set shows several materials or variants together: a row without gaps, a bend lined with lamps."
          />
        )}
        {sets.length > 0 && (
          <SetPainter
            sets={sets}
            meshes={meshes}
            materials={materials}
            sources={sourcesOf(projectId)}
            targets={targets}
          />
        )}
        <Box
          component="ul"
          aria-label="Sets"
          sx={{ m: 0, p: 0, display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(280px, 1fr))', gap: 1.5 }}
        >
          {sets.map((set) => (
            <CardItem key={set.id}>
              <Box
                component={Link}
                to={`/projects/${projectId}/sets/${set.id}`}
                sx={{ display: 'block', color: 'text.primary', textDecoration: 'none' }}
              >
                <Box
                  component="canvas"
                  ref={(canvas: HTMLCanvasElement | null) => {
                    if (canvas) targets.set(set.id, canvas);
                    else targets.delete(set.id);
                  }}
                  aria-hidden="true"
                  sx={{ display: 'block', width: '100%', aspectRatio: '16 / 9', bgcolor: tokens.pit }}
                />
                <Box sx={{ p: 1.5 }}>
                  <Typography component="h2" noWrap sx={{ fontWeight: 500, fontSize: 14, mb: 0.5 }}>
                    {set.name}
                  </Typography>
                  {set.items.slice(0, 5).map((item) => {
                    const [mesh, dress] = nameOfItem(item, meshes, materials);
                    return (
                      <Typography key={item.id} noWrap sx={{ color: 'text.secondary' }}>
                        {mesh}: {dress}
                        {item.copies ? `, ${String(item.copies.count)} times` : ''}
                      </Typography>
                    );
                  })}
                  {set.items.length > 5 && (
                    <Typography sx={{ color: 'text.secondary' }}>and {set.items.length - 5} more</Typography>
                  )}
                </Box>
              </Box>
            </CardItem>
          ))}
        </Box>
      </Box>
    </>
  );
}
