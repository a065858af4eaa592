import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  MenuItem,
  Select,
  Slider,
  TextField,
  Typography,
} from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { sentence, type PickRecipe, type Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import type { Made, PackPick } from '../workers/pixels.worker.ts';
import { CHANNEL_VIEWS, type ChannelView } from '../material/shown.ts';
import { MovesDialog } from './MovesDialog.tsx';
import { fileOf } from '../project/new-maps.ts';
import { CLEAR_GROUND } from '../project/source-picture.ts';
import { freeName } from '../project/sources-store.ts';
import { refOf } from '../project/supply.ts';
import type { ProjectSources } from '../project/use-project.ts';

const NAMES = ['Red', 'Green', 'Blue', 'Alpha'] as const;
const START: readonly PickRecipe[] = [0, 1, 2, 3].map((c) => ({
  channel: 0,
  invert: false,
  constant: c === 3 ? 1 : 0,
}));

/** Builds one picture of channels of others; then offers to move the reads of the materials to it. */
export function PackDialog({
  shown,
  close,
}: {
  readonly shown: ProjectSources;
  readonly close: () => void;
}): ReactElement {
  const { store, sources } = shown;
  const [picks, setPicks] = useState(START);
  const [name, setName] = useState(() => freeName('packed.png', sources));
  const [look, setLook] = useState<ChannelView>('rgb');
  const [made, setMade] = useState<Made>();
  const [problem, setProblem] = useState('');
  const [written, setWritten] = useState<Source>();

  const used = picks.map((p) => sources.find((s) => s.name === p.source));
  const largest = used.reduce<Source | undefined>(
    (best, s) => (s && (!best || s.width * s.height > best.width * best.height) ? s : best),
    undefined,
  );
  const [width, height] = [largest?.width ?? 256, largest?.height ?? 256];
  const bits = used.some((s) => s?.bits === 16) ? 16 : 8;

  useEffect(() => {
    let gone = false;
    const given = picks.map(({ source, ...rest }): PackPick => {
      const found = sources.find((s) => s.name === source);
      return found ? { ...rest, picture: refOf(found) } : rest;
    });
    pixels('sources')
      .pack(given, width, height, bits, look)
      .then(
        (result) => {
          if (!gone) setMade(result);
        },
        (error: unknown) => {
          if (!gone) setProblem(sentence(error));
        },
      );
    return () => {
      gone = true;
    };
  }, [picks, sources, width, height, bits, look]);

  const set = (channel: number, change: Partial<PickRecipe>): void => {
    setPicks(picks.map((p, i) => (i === channel ? { ...p, ...change } : p)));
  };
  const write = async (): Promise<void> => {
    if (!made) return;
    setProblem('');
    try {
      setWritten(
        await store.create(
          { name: name.trim(), file: fileOf(made.bytes), recipe: { kind: 'pack', width, height, bits, picks } },
          `pack ${name.trim()}`,
        ),
      );
    } catch (error) {
      setProblem(sentence(error));
    }
  };
  if (written) return <MovesDialog packed={written} picks={picks} shown={shown} close={close} />;
  return (
    <Dialog open onClose={close} maxWidth={false} slotProps={{ paper: { sx: { width: 940 } } }}>
      <DialogTitle>Pack channels into one picture</DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 300px', gap: 3 }}>
          <Box>
            <Typography sx={{ color: 'text.secondary', mb: 1 }}>
              Stored values are copied unchanged. Smaller pictures are scaled to the largest.
            </Typography>
            {picks.map((pick, c) => (
              <Pick
                key={NAMES[c]}
                label={NAMES[c] ?? ''}
                pick={pick}
                sources={sources}
                set={(change) => {
                  set(c, change);
                }}
              />
            ))}
          </Box>
          <Box>
            <Preview bitmap={made?.bitmap} />
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 1 }}>
              <Select
                variant="outlined"
                value={look}
                onChange={(event) => {
                  setLook(event.target.value);
                }}
                inputProps={{ 'aria-label': 'Shown channels' }}
                sx={{ width: 96 }}
              >
                {CHANNEL_VIEWS.map((l) => (
                  <MenuItem key={l} value={l}>
                    {l === 'all' ? 'All' : l.toUpperCase()}
                  </MenuItem>
                ))}
              </Select>
              <Typography sx={{ color: 'text.secondary' }}>
                {width} x {height}, {bits} bit
              </Typography>
            </Box>
          </Box>
        </Box>
      </DialogContent>
      <DialogActions>
        <TextField
          label="Name of the new source"
          value={name}
          onChange={(event) => {
            setName(event.target.value);
          }}
          error={problem !== ''}
          helperText={problem}
          sx={{ mr: 'auto', width: 300 }}
        />
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!made || name.trim() === '' || used.every((s) => !s)}
          onClick={() => void write()}
        >
          Pack
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Pick({
  label,
  pick,
  sources,
  set,
}: {
  readonly label: string;
  readonly pick: PickRecipe;
  readonly sources: readonly Source[];
  readonly set: (change: Partial<PickRecipe>) => void;
}): ReactElement {
  const { source, channel, invert, constant } = pick;
  return (
    <Box role="group" aria-label={label} sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 44 }}>
      <Typography sx={{ width: 44, flex: 'none' }}>{label}</Typography>
      <Select
        variant="outlined"
        value={source ?? ''}
        displayEmpty
        onChange={(event) => {
          set({ source: event.target.value === '' ? undefined : event.target.value });
        }}
        inputProps={{ 'aria-label': `${label} comes from` }}
        sx={{ width: 190 }}
      >
        <MenuItem value="">a constant</MenuItem>
        {sources.map((s) => (
          <MenuItem key={s.id} value={s.name}>
            {s.name}
          </MenuItem>
        ))}
      </Select>
      {source === undefined ? (
        <>
          <Slider
            aria-label={`${label} constant`}
            min={0}
            max={1}
            step={0.01}
            value={constant}
            onChange={(_, next) => {
              set({ constant: next });
            }}
            sx={{ width: 140, ml: 1 }}
          />
          <Typography>{constant.toFixed(2)}</Typography>
        </>
      ) : (
        <>
          <Select
            variant="outlined"
            value={channel}
            onChange={(event) => {
              set({ channel: event.target.value });
            }}
            inputProps={{ 'aria-label': `${label} takes channel` }}
            sx={{ width: 92 }}
          >
            {NAMES.map((n, i) => (
              <MenuItem key={n} value={i}>
                {n}
              </MenuItem>
            ))}
          </Select>
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={invert}
                onChange={(_, on) => {
                  set({ invert: on });
                }}
              />
            }
            label="inverted"
          />
        </>
      )}
    </Box>
  );
}

function Preview({ bitmap }: { readonly bitmap: ImageBitmap | undefined }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || !bitmap) return;
    element.height = Math.round((element.width * bitmap.height) / bitmap.width);
    context.drawImage(bitmap, 0, 0, element.width, element.height);
  }, [bitmap]);
  return (
    <Box sx={{ height: 300, display: 'grid', placeItems: 'center', bgcolor: tokens.pit, overflow: 'hidden' }}>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label="The packed picture"
        width={600}
        height={600}
        sx={{ maxWidth: '100%', maxHeight: 300, background: bitmap ? CLEAR_GROUND : 'none' }}
      />
    </Box>
  );
}
