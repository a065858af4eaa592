import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from '@mui/material';
import { useMemo, useState, type ReactElement, type SyntheticEvent } from 'react';
import { sentence, type Material, type Project } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import type { TextureSupply } from '../gl/textures.ts';
import { STARTS, type StartName } from './new-material.ts';
import { PlayingPicture } from '../viewport/PlayingPicture.tsx';
import { PicturePlayer } from '../viewport/picture-player.ts';
import { shelfActions } from './shelf-store.ts';

const player = new PicturePlayer();

/** Asks what a new material starts from, and for its title. */
export function NewMaterialDialog({
  project,
  materials,
  supply,
  close,
  made,
}: {
  readonly project: Project;
  readonly materials: readonly Material[];
  readonly supply: TextureSupply;
  readonly close: () => void;
  readonly made: (material: Material) => void;
}): ReactElement {
  const [title, setTitle] = useState('Untitled');
  const [start, setStart] = useState('moving');
  const [busy, setBusy] = useState(false);
  const [message, setMessage] = useState('');
  const starts = useMemo(
    () => [
      ...(Object.keys(STARTS) as StartName[]).map((key) => ({ key, label: STARTS[key].label, text: STARTS[key].text })),
      ...materials.map((m) => ({ key: m.id, label: m.title, text: m.text })),
    ],
    [materials],
  );
  const submit = (event: SyntheticEvent): void => {
    event.preventDefault();
    const text = starts.find((s) => s.key === start)?.text ?? STARTS.moving.text;
    setBusy(true);
    shelfActions.createMaterial(project, title.trim(), text).then(
      (material) => {
        close();
        made(material);
      },
      (error: unknown) => {
        setMessage(sentence(error));
        setBusy(false);
      },
    );
  };
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth aria-labelledby="new-material">
      <form onSubmit={submit} style={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <DialogTitle id="new-material">New material in {project.name}</DialogTitle>
        <DialogContent>
          <TextField
            autoFocus
            fullWidth
            margin="dense"
            label="Title"
            value={title}
            error={message !== ''}
            helperText={message}
            slotProps={{ htmlInput: { maxLength: 120 } }}
            onChange={(event) => {
              setTitle(event.target.value);
            }}
            onFocus={(event) => {
              event.target.select();
            }}
          />
          <Typography id="start-from" sx={{ mt: 1.5, mb: 1 }}>
            Start from
          </Typography>
          <Box
            role="radiogroup"
            aria-labelledby="start-from"
            sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, 114px)', gap: 1.5 }}
          >
            {starts.map(({ key, label, text }) => (
              <Box
                key={key}
                component="label"
                sx={{
                  cursor: 'pointer',
                  border: 1,
                  borderColor: key === start ? tokens.bone : 'divider',
                  bgcolor: key === start ? tokens.select : 'transparent',
                  '&:focus-within': { outline: `2px solid ${tokens.bone}` },
                }}
              >
                <input
                  type="radio"
                  name="start"
                  checked={key === start}
                  onChange={() => {
                    setStart(key);
                  }}
                  style={{ position: 'absolute', opacity: 0 }}
                />
                <PlayingPicture player={player} text={text} supply={supply} size={112} />
                <Typography noWrap sx={{ px: 0.75, py: 0.5 }}>
                  {label}
                </Typography>
              </Box>
            ))}
          </Box>
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={busy || title.trim() === ''}>
            Make material
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
