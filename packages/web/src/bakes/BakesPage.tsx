import { Box, Button, Menu, MenuItem, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link, useParams } from 'react-router';
import { useStore } from 'zustand';
import { api, isMissing } from '../api/client.ts';
import { BakeRow } from '../project/BakeRow.tsx';
import { isUnderWay } from '../project/bakes-store.ts';
import { sourcesOf } from '../project/sources-store.ts';
import { useBakes } from '../project/use-bakes.ts';
import { useOpening } from '../ui/opening.tsx';
import { Notice, Place, TopBar } from '../ui/Page.tsx';
import { useTitle } from '../ui/title.ts';
import { Workers } from './Workers.tsx';

/** All bakes of a project: those that run, and what came of the others. */
export function BakesPage(): ReactElement {
  const { projectId = '' } = useParams();
  const store = useBakes(projectId);
  const { bakes, status, message } = useStore(store);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  useTitle('Bakes');
  const { opened, page } = useOpening('bakes', projectId, async () => {
    const project = await api.project(projectId).catch((error: unknown) => {
      if (isMissing(error)) return undefined;
      throw error;
    });
    return project && { project, materials: await api.materials(projectId) };
  });
  if (!opened) return page;
  if (status !== 'ready')
    return (
      <>
        <TopBar />
        <Notice
          alert={status === 'failed'}
          busy={status === 'loading'}
          title={status === 'failed' ? 'The bakes cannot be opened' : 'Opening the bakes'}
          detail={message}
        />
      </>
    );
  const { project, materials } = opened;
  const sources = sourcesOf(projectId);
  const running = bakes.filter(isUnderWay);
  const over = bakes.filter((b) => !isUnderWay(b));
  const list = (title: string, of: typeof bakes): ReactElement | null =>
    of.length === 0 ? null : (
      <Box component="section" aria-label={title} sx={{ mb: 3, maxWidth: 980 }}>
        <Typography variant="h2" sx={{ mb: 1 }}>
          {title}
        </Typography>
        <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none' }}>
          {of.map((bake) => (
            <BakeRow key={bake.id} bake={bake} store={store} sources={sources} titled />
          ))}
        </Box>
      </Box>
    );
  return (
    <>
      <TopBar>
        <Place links={[{ to: '/', label: 'Shelf' }, { label: project.name }]} here="Bakes" />
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 2 }}>
          <Button
            variant="contained"
            aria-haspopup="menu"
            onClick={(event) => {
              setMenu(event.currentTarget);
            }}
            disabled={materials.length === 0}
          >
            New bake
          </Button>
          <Typography sx={{ color: 'text.secondary' }}>
            Flipbooks, sequences and videos of materials. Bakes continue when this page is closed, and keep their
            settings.
          </Typography>
          <Menu
            open={menu !== null}
            anchorEl={menu}
            onClose={() => {
              setMenu(null);
            }}
          >
            {materials.map((m) => (
              <MenuItem key={m.id} component={Link} to={`/materials/${m.id}?panel=bake`}>
                {m.title}
              </MenuItem>
            ))}
          </Menu>
        </Box>
        {list('In progress', running)}
        <Workers />
        {list('Baked', over)}
        {bakes.length === 0 && (
          <Notice
            title="No bakes yet"
            detail="New bake opens a material on the Bench, where you can bake it as a sheet, single pictures, an animated PNG or a video."
          />
        )}
      </Box>
    </>
  );
}
