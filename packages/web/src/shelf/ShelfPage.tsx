import { Box, Button, InputBase, Snackbar, Typography } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence } from '../api/client.ts';
import { Notice, TopBar } from '../ui/Page.tsx';
import { NameDialog } from '../ui/dialogs.tsx';
import { projectFromZip } from '../project/project-zip.ts';
import { ProjectSection, type ShelfHost } from './ProjectSection.tsx';
import { followShelf, loadShelf, shelf, shelfActions } from './shelf-store.ts';
import { UnsavedTexts } from './UnsavedTexts.tsx';

interface Said {
  readonly words: string;
  readonly undo?: (() => Promise<unknown>) | undefined;
}

/** Home: the projects and their materials, each card playing. */
export function ShelfPage(): ReactElement {
  const { status, message, projects } = useStore(shelf);
  const [dialog, setDialog] = useState<ReactElement>();
  const [said, setSaid] = useState<Said>();
  const [search, setSearch] = useState('');
  const [importing, setImporting] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const host = useMemo<ShelfHost>(
    () => ({
      ask: setDialog,
      say: (words, undo) => {
        setSaid({ words, undo });
      },
    }),
    [],
  );

  useEffect(() => {
    const abort = new AbortController();
    void loadShelf(abort.signal);
    const end = followShelf();
    return () => {
      end();
      abort.abort();
    };
  }, []);

  const importZip = async (chosen: File): Promise<void> => {
    setImporting(true);
    try {
      const { name } = await projectFromZip(chosen);
      await loadShelf();
      host.say(`${name} is imported.`);
    } catch (error) {
      host.say(sentence(error));
    } finally {
      setImporting(false);
    }
  };
  const newProject = (
    <Button
      variant="outlined"
      onClick={() => {
        host.ask(
          <NameDialog
            title="New project"
            verb="Create project"
            label="Name"
            start=""
            close={() => {
              host.ask(undefined);
            }}
            act={shelfActions.createProject}
          />,
        );
      }}
    >
      New project
    </Button>
  );

  return (
    <>
      <TopBar>
        <Typography component="h1" sx={{ color: 'text.secondary' }}>
          Shelf
        </Typography>
        {status === 'ready' && (
          <>
            <InputBase
              type="search"
              value={search}
              placeholder="Search materials"
              slotProps={{ input: { 'aria-label': 'Search materials' } }}
              onChange={(event) => {
                setSearch(event.target.value);
              }}
              sx={{
                ml: 2,
                width: 260,
                px: 1,
                height: 28,
                fontSize: 13,
                bgcolor: 'background.paper',
                border: 1,
                borderColor: 'divider',
                borderRadius: '3px',
              }}
            />
            <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
              <Button disabled={importing} onClick={() => file.current?.click()}>
                {importing ? 'Importing' : 'Import a project'}
              </Button>
              <input
                ref={file}
                type="file"
                accept=".zip,application/zip"
                aria-label="Project as zip"
                hidden
                onChange={(event) => {
                  const [chosen] = event.target.files ?? [];
                  event.target.value = '';
                  if (chosen) void importZip(chosen);
                }}
              />
              {newProject}
            </Box>
          </>
        )}
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, overflow: 'auto', display: 'flex', flexDirection: 'column' }}>
        {status === 'loading' && <Notice busy title="Opening the Shelf" />}
        {status === 'failed' && (
          <Notice
            alert
            title="The Shelf cannot be opened"
            detail={message}
            action={
              <Button variant="outlined" onClick={() => void loadShelf()}>
                Try again
              </Button>
            }
          />
        )}
        {status === 'ready' && projects.length === 0 && (
          <Notice
            title="No projects yet"
            detail="A project holds materials and the textures they use."
            action={newProject}
          />
        )}
        {status === 'ready' && <UnsavedTexts projects={projects} />}
        {status === 'ready' &&
          projects.map((p) => <ProjectSection key={p.project.id} shown={p} search={search} host={host} />)}
      </Box>
      {dialog}
      <Snackbar
        open={said !== undefined}
        message={said?.words}
        autoHideDuration={said?.undo ? 12_000 : 6000}
        onClose={(_, reason) => {
          if (reason !== 'clickaway') setSaid(undefined);
        }}
        action={
          said?.undo && (
            <Button
              onClick={() => {
                const { undo } = said;
                setSaid(undefined);
                undo?.().catch((error: unknown) => {
                  host.say(sentence(error));
                });
              }}
            >
              Undo
            </Button>
          )
        }
      />
    </>
  );
}
