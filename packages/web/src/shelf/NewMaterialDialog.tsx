import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement, type SyntheticEvent } from 'react';
import { api, sentence, startImageAddress, type Material, type Project, type Start } from '../api/client.ts';
import type { TextureSupply } from '../gl/textures.ts';
import { Notice } from '../ui/Page.tsx';
import { tokens } from '../ui/tokens.ts';
import { PlayingPicture } from '../viewport/PlayingPicture.tsx';
import { PicturePlayer } from '../viewport/picture-player.ts';
import { textures } from '../workers/textures.ts';
import { BLANK } from './new-material.ts';
import { shelfActions } from './shelf-store.ts';

const player = new PicturePlayer();

/** Pictures that starts read, whatever the project holds. */
const startSupply: TextureSupply = {
  contentOf: (name) => `start ${name}`,
  load: (name, color, most) =>
    textures().texture({ hash: `start ${name}`, address: startImageAddress(name) }, color, most),
};

/** Something that a new material can begin from. */
interface Beginning {
  readonly key: string;
  readonly group: string;
  readonly title: string;
  readonly sentence: string;
  readonly text: string;
  readonly supply: TextureSupply;
  readonly make: (title: string) => Promise<Material>;
}

/** Asks what a new material starts from, and for its title: a start by what it is for, or one of the project. */
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
  const [title, setTitle] = useState<string>();
  /** What the title's field showed when it was gone into: what is offered does not change under the one who types. */
  const [held, setHeld] = useState<string>();
  const [starts, setStarts] = useState<readonly Start[]>();
  const [picked, setPicked] = useState<string>();
  const [sought, setSought] = useState('');
  const [busy, setBusy] = useState(false);
  const [message, setMessage] = useState('');
  useEffect(() => {
    const abort = new AbortController();
    api.starts(abort.signal).then(setStarts, (error: unknown) => {
      if (abort.signal.aborted) return;
      setStarts([]);
      setMessage(`The starts cannot be loaded. ${sentence(error)}`);
    });
    return () => {
      abort.abort();
    };
  }, []);
  const all = useMemo<readonly Beginning[]>(
    () => [
      ...(starts ?? []).map(({ name, ...start }): Beginning => ({
        ...start,
        key: name,
        supply: startSupply,
        make: (as) => shelfActions.beginFrom(project, name, as),
      })),
      {
        key: 'blank',
        group: 'Empty',
        title: 'Blank',
        sentence: 'Nothing yet: drop a texture on it, or insert a step.',
        text: BLANK,
        supply,
        make: (as) => shelfActions.createMaterial(project, as, BLANK),
      },
      ...materials.map(({ id, title: of, text }): Beginning => ({
        key: id,
        group: `Materials of ${project.name}`,
        title: of,
        sentence: 'A copy of it.',
        text,
        supply,
        make: (as) => shelfActions.createMaterial(project, as, text),
      })),
    ],
    [starts, materials, project, supply],
  );
  const words = sought.trim().toLowerCase().split(/\s+/);
  const found = all.filter(({ title: of, sentence: says, group, text }) => {
    const searched = `${of} ${says} ${group} ${text}`.toLowerCase();
    return words.every((word) => searched.includes(word));
  });
  const chosen = found.find((b) => b.key === picked) ?? found[0];
  const groups = [...new Set(found.map((b) => b.group))];
  const written = title ?? held ?? (chosen && chosen.key !== 'blank' ? chosen.title : 'Untitled');
  const submit = (event: SyntheticEvent): void => {
    event.preventDefault();
    if (!chosen || written.trim() === '') return;
    setBusy(true);
    chosen.make(written.trim()).then(
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
    <Dialog
      open
      onClose={close}
      maxWidth={false}
      aria-labelledby="new-material"
      slotProps={{ paper: { sx: { width: 980, height: 660 } } }}
    >
      <form onSubmit={submit} style={{ display: 'flex', flexDirection: 'column', minHeight: 0, flex: 1 }}>
        <DialogTitle id="new-material" sx={{ display: 'flex', alignItems: 'center' }}>
          <Box component="span" sx={{ flex: 1 }}>
            New material in {project.name}
          </Box>
          <TextField
            autoFocus
            placeholder="What should it do? Scroll, dissolve, rain ..."
            value={sought}
            onChange={(event) => {
              setSought(event.target.value);
            }}
            slotProps={{ htmlInput: { 'aria-label': 'Search the starts' } }}
            sx={{ width: 320 }}
          />
        </DialogTitle>
        <DialogContent>
          {!starts && <Notice busy title="Loading the starts" />}
          {starts && found.length === 0 && (
            <Typography sx={{ color: 'text.secondary' }}>
              No matching start. Try one word, or clear the search.
            </Typography>
          )}
          <Box role="radiogroup" aria-label="Start from" sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 3 }}>
            {starts &&
              groups.map((group) => (
                <Box key={group} sx={{ mb: 1.5 }}>
                  <Typography component="h3" sx={{ mb: 0.5, color: 'text.secondary' }}>
                    {group}
                  </Typography>
                  <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
                    {found
                      .filter((b) => b.group === group)
                      .map((b) => (
                        <BeginningCard
                          key={b.key}
                          of={b}
                          checked={b === chosen}
                          pick={() => {
                            setPicked(b.key);
                          }}
                        />
                      ))}
                  </Box>
                </Box>
              ))}
          </Box>
        </DialogContent>
        <DialogActions sx={{ borderTop: 1, borderColor: 'divider', pt: 2 }}>
          <TextField
            label="Title"
            value={written}
            error={message !== ''}
            helperText={message}
            slotProps={{ htmlInput: { maxLength: 120 } }}
            onChange={(event) => {
              setTitle(event.target.value);
            }}
            onFocus={(event) => {
              setHeld(written);
              event.target.select();
            }}
            onBlur={() => {
              setHeld(undefined);
            }}
            sx={{ width: 240 }}
          />
          <Typography sx={{ flex: 1, minWidth: 0, px: 1, color: 'text.secondary' }}>{chosen?.sentence}</Typography>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={busy || !chosen || written.trim() === ''}>
            Create material
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

function BeginningCard({
  of: { title, sentence: says, text, supply },
  checked,
  pick,
}: {
  readonly of: Beginning;
  readonly checked: boolean;
  readonly pick: () => void;
}): ReactElement {
  return (
    <Box
      component="label"
      title={says}
      sx={{
        position: 'relative',
        width: 148,
        cursor: 'pointer',
        border: 1,
        borderColor: checked ? tokens.bone : 'divider',
        bgcolor: checked ? tokens.select : 'transparent',
        '&:hover': { borderColor: tokens.dim },
        '&:focus-within': { outline: `2px solid ${tokens.bone}` },
      }}
    >
      <input
        type="radio"
        name="start"
        aria-label={title}
        checked={checked}
        onChange={pick}
        style={{ position: 'absolute', opacity: 0 }}
      />
      <PlayingPicture player={player} text={text} supply={supply} size={146} />
      <Typography noWrap sx={{ px: 0.75, pt: 0.5, fontWeight: 500 }}>
        {title}
      </Typography>
      <Typography
        variant="caption"
        component="p"
        sx={{
          px: 0.75,
          pb: 0.5,
          height: 36,
          color: checked ? 'text.primary' : 'text.secondary',
          overflow: 'hidden',
          display: '-webkit-box',
          WebkitLineClamp: 2,
          WebkitBoxOrient: 'vertical',
        }}
      >
        {says}
      </Typography>
    </Box>
  );
}
