import { countsOf } from '@estela/core';
import { Box, Button, Typography } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { Place, placeLink, TopBar } from '../app/Page.tsx';
import { faces, tokens } from '../app/tokens.ts';
import { useFindings } from './checks/use-findings.ts';
import { useSession } from './session.ts';

const MergeDialog = lazy(async () => ({ default: (await import('./revisions/MergeDialog.tsx')).MergeDialog }));
const BakeDialog = lazy(async () => ({ default: (await import('./BakeDialog.tsx')).BakeDialog }));

/** Where the material belongs, what it is called, and whether it is saved. */
export function BenchBar(): ReactElement {
  const { project, cover, rested } = useSession();
  const title = useStore(rested, (s) => s.derived.program.title);
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
  const { panel, checks } = useSession();
  const { grave, notes } = countsOf(useFindings().findings);
  const open = useStore(panel, (s) => s.open?.kind === 'checks');
  const known = useStore(checks, (s) => s.report !== undefined);
  return (
    <Button
      variant="outlined"
      aria-pressed={open}
      aria-label={`Checks: ${String(grave)} to look at, ${String(notes)} ${notes === 1 ? 'note' : 'notes'}`}
      title="What was found, why, and what mends it"
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
        {known ? (notes > 0 ? `${String(notes)} ${notes === 1 ? 'note' : 'notes'}` : grave > 0 ? '' : 'none') : '...'}
      </Box>
    </Button>
  );
}

const NOT_KEPT = 'This browser keeps nothing: leave this page open until it is saved.';

/** Says whether the text is saved; where another tab saved first, what can be done about it. */
function SaveMark(): ReactElement {
  const { saver } = useSession();
  const [merging, setMerging] = useState(false);
  const status = useStore(saver, (s) => s.status);
  const revision = useStore(saver, (s) => s.revision);
  const message = useStore(saver, (s) => s.message);
  const kept = useStore(saver, (s) => s.kept);
  const gone = useStore(saver, (s) => s.gone);
  if (status === 'stale') {
    return (
      <Box role="alert" sx={{ display: 'flex', alignItems: 'center', gap: 1, ml: 'auto', minWidth: 0 }}>
        <Typography noWrap sx={{ color: tokens.coral }}>
          Not saved: this material was saved elsewhere. Your text stays here.
        </Typography>
        <Button
          variant="outlined"
          onClick={() => {
            setMerging(true);
          }}
        >
          Compare and merge
        </Button>
        <Button variant="outlined" onClick={() => void saver.saveOver()}>
          Save mine over it
        </Button>
        <Button variant="outlined" onClick={() => void saver.takeTheirs()}>
          Take the other
        </Button>
        {merging && (
          <Suspense>
            <MergeDialog
              close={() => {
                setMerging(false);
              }}
            />
          </Suspense>
        )}
      </Box>
    );
  }
  if (status === 'away') {
    return (
      <Box role="status" aria-label="Saving" sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
        <Typography noWrap sx={{ color: tokens.coral }}>
          The server is away. {kept ? 'Go on: your text is kept in this browser and sent when it is back.' : NOT_KEPT}
        </Typography>
        <Button variant="outlined" onClick={() => void saver.flush()}>
          Try now
        </Button>
      </Box>
    );
  }
  if (status === 'failed') {
    return (
      <Box role="alert" sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography noWrap sx={{ color: tokens.coral }}>
          Not saved: {message} {kept ? 'Your text is kept in this browser.' : NOT_KEPT}
        </Typography>
        {gone && (
          <Button variant="outlined" onClick={() => void saver.restore()}>
            Restore the material
          </Button>
        )}
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
