import { Box, Button, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { api, type BakeWorker } from '../api/client.ts';
import { secondsWords } from '../project/bake-words.ts';
import { copyText } from '../ui/copy-text.ts';
import { faces, tokens } from '../ui/tokens.ts';

/** Milliseconds between two looks at the workers. */
const PAUSE = 2000;

/** The workers as the server knows them, looked at again and again while this is shown; undefined at first. */
function useWorkers(): readonly BakeWorker[] | undefined {
  const [workers, setWorkers] = useState<readonly BakeWorker[]>();
  useEffect(() => {
    let timer = 0;
    let over = false;
    const look = async (): Promise<void> => {
      // What the server does not tell now stays as it was.
      const told = document.visibilityState === 'visible' ? await api.workers().catch(() => undefined) : undefined;
      if (over) return;
      if (told) setWorkers(told);
      timer = window.setTimeout(() => void look(), PAUSE);
    };
    void look();
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, []);
  return workers;
}

/** What a worker does, in a line. */
function taskWords({ state, at, seenAt }: BakeWorker): string {
  if (state === 'lost') {
    const ago = secondsWords((Date.now() - new Date(seenAt).getTime()) / 1000);
    return `lost: no sign for ${ago}; others take over what it had`;
  }
  return at.length === 0
    ? 'idle'
    : at.map(({ title, chunks }) => `${title}, ${String(chunks)} ${chunks === 1 ? 'chunk' : 'chunks'}`).join('; ');
}

/** Who computes bakes, what they have in hand, and how fast they are. */
export function Workers(): ReactElement | null {
  const workers = useWorkers();
  if (!workers) return null;
  return (
    <Box component="section" aria-label="Workers" sx={{ mb: 3, maxWidth: 980 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Workers
      </Typography>
      {workers.length === 0 ? (
        <NoWorker />
      ) : (
        <Box
          component="table"
          sx={{
            width: '100%',
            borderCollapse: 'collapse',
            'th, td': { textAlign: 'left', py: 0.75, pr: 2, borderTop: 1, borderColor: 'divider', fontWeight: 400 },
            thead: { color: 'text.secondary' },
            '.figure': { textAlign: 'right', whiteSpace: 'nowrap' },
            'td.figure': { fontFamily: faces.figures },
          }}
        >
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col" className="figure">
                Threads
              </th>
              <th scope="col" className="figure">
                Frames per second
              </th>
              <th scope="col" className="figure">
                Chunks done
              </th>
              <th scope="col">Working on</th>
            </tr>
          </thead>
          <tbody>
            {workers.map((worker) => (
              <tr key={worker.id}>
                <th scope="row">{worker.name}</th>
                <td className="figure">{worker.jobs}</td>
                <td className="figure">{worker.rate === null ? '-' : worker.rate.toFixed(worker.rate < 10 ? 1 : 0)}</td>
                <td className="figure">{worker.chunks}</td>
                <Box component="td" sx={{ width: '45%', color: worker.state === 'lost' ? tokens.coral : undefined }}>
                  {taskWords(worker)}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
    </Box>
  );
}

/** How a worker is started. */
function NoWorker(): ReactElement {
  const [copied, setCopied] = useState(false);
  const command = `npm run worker -- --redis redis://HOST:6379 --server ${window.location.origin}`;
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
      <Typography>
        No worker is connected, so bakes are waiting. Start one on any machine with Estela, with the Redis address of
        this server:
      </Typography>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 0.5 }}>
        <Box component="code" sx={{ fontFamily: faces.figures, overflowWrap: 'anywhere' }}>
          {command}
        </Box>
        <Button
          onClick={() => {
            void copyText(command).then(setCopied);
          }}
        >
          {copied ? 'Copied' : 'Copy'}
        </Button>
      </Box>
    </Box>
  );
}
