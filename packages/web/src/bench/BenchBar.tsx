import { countsOf } from '@estela/core';
import { Box, Button, Typography } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { useStore } from 'zustand';
import { isTrouble } from '../history/autosave.ts';
import { SAVING_WORDS } from '../history/autosaved-history.ts';
import { Place, placeLink, TopBar } from '../ui/Page.tsx';
import { faces, tokens } from '../ui/tokens.ts';
import { useFindings } from './checks/use-findings.ts';
import { useSession } from './session.ts';

const BakeDialog = lazy(async () => ({ default: (await import('./BakeDialog.tsx')).BakeDialog }));

/** Where the material belongs, what it is called, and whether it is saved. */
export function BenchBar(): ReactElement {
  const { material, project, cover, debounced, saver } = useSession();
  const navigate = useNavigate();
  const title = useStore(debounced, (s) => s.derived.program.title);
  const [baking, setBaking] = useState(false);
  return (
    <TopBar least={800}>
      <Place
        links={[{ to: '/', label: 'Shelf' }, { label: project.name }]}
        here={title || 'Untitled'}
        more={
          <Box component={Link} to={`/projects/${project.id}/sources`} sx={placeLink}>
            Sources
          </Box>
        }
      />
      <SaveMark />
      <ChecksButton />
      <Button
        sx={{ flex: 'none' }}
        onClick={() => {
          cover.setState({ open: 'revisions' });
        }}
      >
        Revisions
      </Button>
      <Button
        sx={{ flex: 'none' }}
        onClick={() => {
          cover.setState({ open: 'help' });
        }}
      >
        Keys (?)
      </Button>
      <Button
        variant="outlined"
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
        sx={{ flex: 'none' }}
        onClick={() => {
          setBaking(true);
        }}
      >
        Bake to a source
      </Button>
      {baking && (
        <Suspense>
          <BakeDialog
            close={() => {
              setBaking(false);
            }}
          />
        </Suspense>
      )}
    </TopBar>
  );
}

/** How much was found, and opens the list of it. */
function ChecksButton(): ReactElement {
  const { panel, checks, debounced } = useSession();
  const errors = useStore(debounced, (s) => !s.derived.ok);
  const { grave, notes } = countsOf(useFindings().findings);
  const open = useStore(panel, (s) => s.open?.kind === 'checks');
  const known = useStore(checks, (s) => s.report !== undefined);
  return (
    <Button
      variant="outlined"
      aria-pressed={open}
      aria-label={`Checks: ${String(grave)} to look at, ${String(notes)} ${notes === 1 ? 'note' : 'notes'}`}
      title="What was found, why, and what fixes it"
      sx={{ ml: 'auto', flex: 'none', gap: 0.75, ...(open ? { bgcolor: 'action.selected' } : {}) }}
      onClick={() => {
        panel.setState({ open: open ? undefined : { kind: 'checks' } });
      }}
    >
      Checks
      {grave > 0 && (
        <Box component="span" sx={{ color: tokens.coral, fontFamily: faces.figures }}>
          {grave}
        </Box>
      )}
      <Box component="span" sx={{ color: 'text.secondary', fontWeight: 400, minWidth: 46, textAlign: 'left' }}>
        {known
          ? notes > 0
            ? `${String(notes)} ${notes === 1 ? 'note' : 'notes'}`
            : grave > 0
              ? ''
              : 'none'
          : errors
            ? ''
            : '...'}
      </Box>
    </Button>
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
