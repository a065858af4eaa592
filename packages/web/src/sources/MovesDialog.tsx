import { applyEdits, moveReads, type ChannelMove } from '@estela/core';
import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { api, sentence, type PickRecipe, type Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import type { ReadMaterial } from '../project/usage.ts';
import type { ProjectSources } from '../project/use-project.ts';

/** Which materials can read the packed picture instead, and why the others cannot. */
export function MovesDialog({
  packed,
  picks,
  shown,
  close,
}: {
  readonly packed: Source;
  readonly picks: readonly PickRecipe[];
  readonly shown: ProjectSources;
  readonly close: () => void;
}): ReactElement {
  const { materials, store, reload } = shown;
  const navigate = useNavigate();
  const [moved, setMoved] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState('');
  // An inverted channel is another value, and cannot stand in for what was read.
  const moves = picks.flatMap((p, to): ChannelMove[] =>
    p.source === undefined || p.invert ? [] : [{ source: p.source, from: p.channel, to }],
  );
  const names = new Set(picks.map((p) => p.source));
  const [concerned] = useState(() => materials.filter((m) => m.program.images.some((i) => names.has(i.source))));
  const move = async ({ material, program }: ReadMaterial): Promise<void> => {
    const result = moveReads(program, packed.name, moves);
    if ('reason' in result) return;
    try {
      await api.saveMaterial(material.id, applyEdits(material.text, result.edits), material.revision);
      setMoved(new Set([...moved, material.id]));
      reload();
      void store.load();
    } catch (error) {
      setProblem(sentence(error));
    }
  };
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Move reads to {packed.name}</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 1 }}>
          {concerned.length === 0
            ? 'No material uses these sources yet.'
            : 'These materials use the packed sources. After moving, they use the packed image, and reads with the same UVs are merged.'}
        </Typography>
        {concerned.map((m) => {
          const result = moveReads(m.program, packed.name, moves);
          return (
            <Box
              key={m.material.id}
              sx={{
                display: 'flex',
                alignItems: 'center',
                gap: 1.5,
                minHeight: 38,
                borderTop: 1,
                borderColor: 'divider',
              }}
            >
              <Typography sx={{ width: 140, flex: 'none' }}>{m.material.title}</Typography>
              {moved.has(m.material.id) ? (
                <Typography sx={{ color: 'text.secondary' }}>moved in a new revision</Typography>
              ) : 'reason' in result ? (
                <Typography sx={{ color: 'text.secondary' }}>{result.reason}</Typography>
              ) : (
                <Button variant="outlined" onClick={() => void move(m)}>
                  Move the reads of {result.images.join(', ')}
                </Button>
              )}
            </Box>
          );
        })}
        {problem !== '' && (
          <Typography role="alert" sx={{ color: tokens.coral }}>
            {problem}
          </Typography>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Done</Button>
        <Button
          variant="contained"
          onClick={() => {
            close();
            void navigate(`/projects/${packed.projectId}/sources/${packed.id}`);
          }}
        >
          Open the picture
        </Button>
      </DialogActions>
    </Dialog>
  );
}
