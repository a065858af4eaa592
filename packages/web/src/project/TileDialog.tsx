import type { SeamMeasure, TileAxes } from '@estela/core';
import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  Slider,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { sentence, type Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import type { Made, TileMethod } from '../workers/pixels.worker.ts';
import { fileOf } from './new-maps.ts';
import { CLEAR_GROUND } from './source-picture.ts';
import { SeamNumbers } from './SeamMeter.tsx';
import { freeName, stemOf, type SourcesStore } from './sources-store.ts';
import { refOf } from './supply.ts';

const METHODS = {
  blend: {
    title: 'Blend',
    detail: 'Crossfades the edges with a copy shifted by half. Best for clouds, dirt, soft noise.',
  },
  patch: {
    title: 'Patch',
    detail:
      'Covers the edges with a strip from inside, cut where it is least visible. Best for stones, leaves, things with outlines.',
  },
} as const;

const AXES: Record<TileAxes, string> = { u: 'Left and right', v: 'Top and bottom', both: 'Both' };

/** Makes a picture tile in two ways, side by side with itself, and stores the better as a new source. */
export function TileDialog({
  source,
  axes: given = 'both',
  store,
  close,
  made: handOn,
}: {
  readonly source: Source;
  /** The axes chosen first. */
  readonly axes?: TileAxes;
  readonly store: SourcesStore;
  readonly close: () => void;
  /** Takes what was made. */
  readonly made: (created: Source) => void;
}): ReactElement {
  const [axes, setAxes] = useState(given);
  const [seams, setSeams] = useState<SeamMeasure>();
  const [original, setOriginal] = useState<ImageBitmap>();
  const [name, setName] = useState(() => freeName(`${stemOf(source.name)}-tiling.png`, store.getState().sources));
  const [problem, setProblem] = useState('');
  useEffect(() => {
    const failed = (error: unknown): void => {
      setProblem(sentence(error));
    };
    pixels('sources').show(refOf(source), 'all', 1024).then(setOriginal, failed);
    pixels('sources')
      .measure(refOf(source))
      .then((m) => {
        setSeams(m.seams);
      }, failed);
  }, [source]);

  const write = async (options: TileMethod, made: Made): Promise<void> => {
    setProblem('');
    try {
      const created = await store.create(
        { name: name.trim(), file: fileOf(made.bytes), recipe: { kind: 'tile', from: source.name, ...options } },
        `make ${source.name} tileable`,
      );
      close();
      handOn(created);
    } catch (error) {
      setProblem(sentence(error));
    }
  };

  return (
    <Dialog open onClose={close} maxWidth={false} slotProps={{ paper: { sx: { width: 1120 } } }}>
      <DialogTitle>Make {source.name} tileable</DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 2 }}>
          <Box>
            <Typography variant="h2">Original</Typography>
            <Typography sx={{ color: 'text.secondary', minHeight: 54 }}>Shown 3 x 3, as it repeats.</Typography>
            <Tiles bitmap={original} label="Original, tiled" />
            {seams && <SeamNumbers seams={seams} />}
            <Typography id="tile-axes" sx={{ mt: 1 }}>
              Edges to join
            </Typography>
            <ToggleButtonGroup
              exclusive
              value={axes}
              aria-labelledby="tile-axes"
              onChange={(_, next: TileAxes | null) => {
                if (next) setAxes(next);
              }}
            >
              {(Object.entries(AXES) as [TileAxes, string][]).map(([key, label]) => (
                <ToggleButton key={key} value={key}>
                  {label}
                </ToggleButton>
              ))}
            </ToggleButtonGroup>
          </Box>
          <MethodPart source={source} method="blend" axes={axes} write={write} named={name.trim() !== ''} />
          <MethodPart source={source} method="patch" axes={axes} write={write} named={name.trim() !== ''} />
        </Box>
      </DialogContent>
      <DialogActions>
        <TextField
          label="Name of the new source"
          value={name}
          onChange={(event) => {
            setName(event.target.value);
          }}
          sx={{ mr: 'auto', width: 300 }}
          error={problem !== ''}
          helperText={problem}
        />
        <Button onClick={close}>Cancel</Button>
      </DialogActions>
    </Dialog>
  );
}

function MethodPart({
  source,
  method,
  axes,
  write,
  named,
}: {
  readonly source: Source;
  readonly method: keyof typeof METHODS;
  readonly axes: TileAxes;
  readonly write: (options: TileMethod, made: Made) => Promise<void>;
  readonly named: boolean;
}): ReactElement {
  const [band, setBand] = useState(method === 'blend' ? 0.25 : 0.12);
  const [shownBand, setShownBand] = useState(band);
  const [keepContrast, setKeepContrast] = useState(true);
  const [latest, setLatest] = useState<{ key: string; made: Made }>();
  const [problem, setProblem] = useState('');
  const options: TileMethod = method === 'blend' ? { method, band, keepContrast, axes } : { method, band, axes };
  const { title, detail } = METHODS[method];
  const key = `${source.hash} ${JSON.stringify(options)}`;
  const made = latest?.key === key ? latest.made : undefined;
  useEffect(() => {
    let gone = false;
    pixels('sources')
      .tile(refOf(source), method === 'blend' ? { method, band, keepContrast, axes } : { method, band, axes })
      .then(
        (result) => {
          if (!gone) setLatest({ key, made: result });
        },
        (error: unknown) => {
          if (!gone) setProblem(sentence(error));
        },
      );
    return () => {
      gone = true;
    };
  }, [source, method, band, keepContrast, axes, key]);
  return (
    <Box role="group" aria-label={title}>
      <Typography variant="h2">{title}</Typography>
      <Typography sx={{ color: 'text.secondary', minHeight: 54 }}>{detail}</Typography>
      <Tiles bitmap={made?.bitmap} label={`${title}, tiled`} />
      {made ? (
        <SeamNumbers seams={made.seams} />
      ) : (
        <Typography sx={{ color: 'text.secondary' }}>{problem || 'computing'}</Typography>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1 }}>
        <Typography sx={{ flex: 'none' }}>Width of the edge</Typography>
        <Slider
          aria-label={`${title}: width of the edge`}
          min={0.02}
          max={method === 'blend' ? 0.5 : 0.24}
          step={0.01}
          value={shownBand}
          onChange={(_, next) => {
            setShownBand(next);
          }}
          onChangeCommitted={(_, next) => {
            setBand(next);
          }}
        />
        <Typography sx={{ width: 36, flex: 'none', textAlign: 'right' }}>{Math.round(shownBand * 100)}%</Typography>
      </Box>
      <Box sx={{ minHeight: 38 }}>
        {method === 'blend' && (
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={keepContrast}
                onChange={(_, on) => {
                  setKeepContrast(on);
                }}
              />
            }
            label="Keep contrast in the crossfade"
          />
        )}
      </Box>
      <Button
        variant="contained"
        disabled={!made || !named}
        onClick={() => {
          if (made) void write(options, made);
        }}
      >
        Save as a new source
      </Button>
    </Box>
  );
}

/** A picture three by three. */
function Tiles({ bitmap, label }: { readonly bitmap: ImageBitmap | undefined; readonly label: string }): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !canvas.current || !bitmap) return;
    const { width } = canvas.current;
    const height = Math.round((width * bitmap.height) / bitmap.width);
    canvas.current.height = height;
    for (let i = 0; i < 9; i++)
      context.drawImage(bitmap, ((i % 3) * width) / 3, (Math.floor(i / 3) * height) / 3, width / 3, height / 3);
  }, [bitmap]);
  return (
    <Box sx={{ height: 340, display: 'grid', placeItems: 'center', bgcolor: tokens.pit, mb: 0.5, overflow: 'hidden' }}>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={label}
        width={680}
        height={680}
        sx={{ maxWidth: '100%', maxHeight: 340, background: bitmap ? CLEAR_GROUND : 'none' }}
      />
    </Box>
  );
}
