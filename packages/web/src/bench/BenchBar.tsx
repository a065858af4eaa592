import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { TopBar } from '../app/Page.tsx';
import { tokens } from '../app/tokens.ts';
import { useSession } from './session.ts';

/** Where the material belongs, what it is called, and whether it is saved. */
export function BenchBar(): ReactElement {
  const { document, project } = useSession();
  const title = useStore(document, (s) => s.derived.program.title);
  const link = { color: 'text.secondary', textDecoration: 'none', '&:hover': { color: 'text.primary' } } as const;
  const separator = (
    <Box component="span" aria-hidden="true" sx={{ color: 'text.secondary' }}>
      /
    </Box>
  );
  return (
    <TopBar>
      <Box component="nav" aria-label="Place" sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
        <Box component={Link} to="/" sx={link}>
          Shelf
        </Box>
        {separator}
        <Box component="span" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
          {project.name}
        </Box>
        {separator}
        <Typography component="h1" noWrap sx={{ fontWeight: 500, fontSize: 14 }}>
          {title || 'Untitled'}
        </Typography>
      </Box>
      <SaveMark />
    </TopBar>
  );
}

/** Says whether the text is saved; where another tab saved first, what can be done about it. */
function SaveMark(): ReactElement {
  const { saver } = useSession();
  const status = useStore(saver, (s) => s.status);
  const revision = useStore(saver, (s) => s.revision);
  const message = useStore(saver, (s) => s.message);
  if (status === 'stale') {
    return (
      <Box role="alert" sx={{ display: 'flex', alignItems: 'center', gap: 1, ml: 'auto', minWidth: 0 }}>
        <Typography noWrap sx={{ color: tokens.coral }}>
          Not saved: this material was saved elsewhere. Your text is kept here.
        </Typography>
        <Button variant="outlined" onClick={() => void saver.saveOver()}>
          Save mine over it
        </Button>
        <Button variant="outlined" onClick={() => void saver.takeTheirs()}>
          Take the other
        </Button>
      </Box>
    );
  }
  if (status === 'failed') {
    return (
      <Box role="alert" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography noWrap sx={{ color: tokens.coral }}>
          Not saved: {message} Your text is kept in this browser.
        </Typography>
        <Button variant="outlined" onClick={() => void saver.flush()}>
          Try again
        </Button>
      </Box>
    );
  }
  const words = status === 'saved' ? `saved, revision ${String(revision)}` : status === 'saving' ? 'saving' : 'not saved yet';
  return (
    <Typography role="status" aria-label="Saving" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
      {words}
    </Typography>
  );
}
