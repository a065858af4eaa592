import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { isTrouble } from '../history/autosave.ts';
import { SAVING_WORDS } from '../history/autosaved-history.ts';
import { Place, placeLink, TopBar } from '../ui/Page.tsx';
import { tokens } from '../ui/tokens.ts';
import { useSession } from './session.ts';

/** Where the material belongs, what it is called, and whether it is saved. */
export function BenchBar(): ReactElement {
  const { material, project, cover, debounced, saver, panel } = useSession();
  const navigate = useNavigate();
  const title = useStore(debounced, (s) => s.derived.program.title);
  return (
    <TopBar least={800}>
      <Place
        links={[{ to: '/', label: 'Shelf' }, { label: project.name }]}
        here={title || 'Untitled'}
        more={
          <>
            <Box component={Link} to={`/projects/${project.id}/sources`} sx={placeLink}>
              Sources
            </Box>
            <Box component={Link} to={`/projects/${project.id}/bakes`} sx={placeLink}>
              Bakes
            </Box>
          </>
        }
      />
      <SaveMark />
      <Button
        sx={{ ml: 'auto', flex: 'none' }}
        onClick={() => {
          cover.setState({ open: 'revisions' });
        }}
      >
        Revisions
      </Button>
      <Button
        variant="outlined"
        sx={{ flex: 'none' }}
        title="Flipbooks, sequences and videos, and single pictures as sources"
        onClick={() => {
          panel.setState({ open: { kind: 'bake' } });
        }}
      >
        Bake
      </Button>
      <Button
        variant="contained"
        data-mark="export"
        sx={{ flex: 'none' }}
        onClick={() => {
          // What leaves is what is saved.
          void saver.flush().then(() => navigate(`/materials/${material.id}/export`));
        }}
      >
        Export
      </Button>
      <Button
        variant="outlined"
        aria-label="Keys (?)"
        title="Keys (?)"
        sx={{ flex: 'none', minWidth: 32 }}
        onClick={() => {
          cover.setState({ open: 'help' });
        }}
      >
        ?
      </Button>
    </TopBar>
  );
}

/** Whether the text is saved, in a word or two; SaveTrouble says the rest. */
function SaveMark(): ReactElement {
  const { saver } = useSession();
  const status = useStore(saver, (s) => s.status);
  const revision = useStore(saver, (s) => s.revision);
  const words = status === 'saved' ? `saved, revision ${String(revision)}` : SAVING_WORDS[status];
  return (
    <Typography
      role="status"
      aria-label="Saving"
      sx={{ color: isTrouble(status) ? tokens.coral : 'text.secondary', whiteSpace: 'nowrap' }}
    >
      {words}
    </Typography>
  );
}
