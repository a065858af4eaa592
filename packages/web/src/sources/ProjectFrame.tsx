import { Box, Button } from '@mui/material';
import { useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { useTitle } from '../ui/title.ts';
import { sentence } from '../api/client.ts';
import { NotFoundPage, Notice, Place, TopBar } from '../ui/Page.tsx';
import { tokens } from '../ui/tokens.ts';
import { UndoButtons } from '../ui/UndoButtons.tsx';
import type { SourcesStore } from '../project/sources-store.ts';
import type { ProjectSources } from '../project/use-project.ts';

/**
 * The frame of every view of a project's sources: its place, undo, and what is shown while there is nothing to show.
 */
export function ProjectFrame({
  shown,
  here,
  parents = [],
  children,
}: {
  readonly shown: ProjectSources;
  readonly here: string;
  readonly parents?: readonly { readonly to: string; readonly label: string }[];
  readonly children: ReactNode;
}): ReactElement {
  const { state, project, message, store, reload } = shown;
  useTitle(here);
  if (state === 'missing') return <NotFoundPage />;
  if (state === 'failed')
    return (
      <>
        <TopBar />
        <Notice
          alert
          title="The sources cannot be opened"
          detail={message}
          action={
            <Button variant="outlined" onClick={reload}>
              Try again
            </Button>
          }
        />
      </>
    );
  if (!project)
    return (
      <>
        <TopBar />
        <Notice busy title="Opening the sources" />
      </>
    );
  return (
    <>
      <TopBar>
        <Place links={[{ to: '/', label: 'Shelf' }, { label: project.name }, ...parents]} here={here} />
        <History store={store} />
      </TopBar>
      {children}
    </>
  );
}

function History({ store }: { readonly store: SourcesStore }): ReactElement {
  const undoes = useStore(store, (s) => s.undoes);
  const redoes = useStore(store, (s) => s.redoes);
  const [problem, setProblem] = useState('');
  const travel = (act: () => Promise<void>) => () => {
    setProblem('');
    act().catch((error: unknown) => {
      setProblem(sentence(error));
    });
  };
  return (
    <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 0.5 }}>
      {problem !== '' && (
        <Box role="alert" sx={{ color: tokens.coral }}>
          {problem}
        </Box>
      )}
      <UndoButtons undoes={undoes} redoes={redoes} undo={travel(store.undo)} redo={travel(store.redo)} />
    </Box>
  );
}
