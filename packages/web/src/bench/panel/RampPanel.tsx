import {
  colorOfHex,
  hexOfColor,
  RAMP_EASINGS,
  rampPixels,
  setRamp,
  spreadEvenly,
  reverseStops,
  writtenRamp,
  type RampEasing,
  type WrittenStop,
} from '@estela/core';
import {
  Box,
  Button,
  Menu,
  MenuItem,
  Slider,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence } from '../../api/client.ts';
import { tokens } from '../../ui/tokens.ts';
import { partsOn, pixelsOn, useDrag } from '../../ui/use-drag.ts';
import { fileOf } from '../../project/new-maps.ts';
import { freeName } from '../../project/sources-store.ts';
import { handOver, refOf } from '../../project/supply.ts';
import { pixels } from '../../workers/pixels.ts';
import { useSession } from '../session.ts';
import { rampPicture } from './ramp-picture.ts';

const held = (at: number): number => Math.round(Math.min(Math.max(at, 0), 1) * 1000) / 1000;
/** Width of a ramp that is written as a picture, in pixels. */
const FILE_WIDTH = 256;

/** Edits a ramp in place: every touch rewrites its line, and one drag is one undo. */
export function RampPanel({ name }: { readonly name: string }): ReactElement {
  const { document, sources, debounced } = useSession();
  const tree = useStore(debounced, (s) => s.derived.program.tree);
  const list = useStore(sources, (s) => s.sources);
  const written = writtenRamp(tree, name);
  const [selected, setSelected] = useState(0);
  const [from, setFrom] = useState<HTMLElement | null>(null);
  const [message, setMessage] = useState('');
  const strip = useRef<HTMLDivElement>(null);
  const picker = useRef<HTMLInputElement>(null);
  const drag = useDrag<readonly WrittenStop[], [number]>({
    // Stops in the order they had when the hand came, so that one may pass another.
    start: ({ event }, which) => {
      (event.currentTarget as HTMLElement).focus();
      setSelected(which);
      return written?.stops;
    },
    move: (at, before, which) => {
      if (!strip.current) return;
      const y = pixelsOn(strip.current, at)[1];
      const away = Math.max(-y, y - strip.current.offsetHeight) > 60 && before.length > 2;
      const moved = { ...before[which]!, at: held(partsOn(strip.current, at)[0]) };
      const next = away ? before.filter((_, i) => i !== which) : before.map((s, i) => (i === which ? moved : s));
      if (!document.getState().dragging) document.setDragging(true);
      write(next, easing, `drag ramp ${name}`);
      if (!away) choose(next, moved);
    },
    end: () => {
      done();
    },
  });
  if (!written)
    return <Typography sx={{ p: 1.5, color: 'text.secondary' }}>This ramp is no longer in the text.</Typography>;
  const { stops, easing } = written;
  const index = Math.min(selected, stops.length - 1);
  const stop = stops[index];

  const write = (next: readonly WrittenStop[], ease: RampEasing = easing, group?: string): void => {
    document.edit(setRamp(document.getState().derived.program.tree, name, next, ease), group);
  };
  const choose = (next: readonly WrittenStop[], at: WrittenStop): void => {
    setSelected([...next].sort((a, b) => a.at - b.at).indexOf(at));
  };
  const add = (at: number): void => {
    const x = Math.min(Math.floor(at * 256), 255) * 4;
    const { data } = rampPixels(stops, easing, 256);
    const two = (v: number): string => v.toString(16).padStart(2, '0');
    const hex = `#${two(data[x]!)}${two(data[x + 1]!)}${two(data[x + 2]!)}${data[x + 3] === 255 ? '' : two(data[x + 3]!)}`;
    const made = { at, hex };
    const next = [...stops, made];
    write(next);
    choose(next, made);
  };
  const remove = (which: number): void => {
    if (stops.length <= 2) return;
    write(stops.filter((_, i) => i !== which));
    setSelected(Math.max(which - 1, 0));
  };
  const change = (part: Partial<WrittenStop>, group?: string): void => {
    if (group !== undefined && !document.getState().dragging) document.setDragging(true);
    write(
      stops.map((s, i) => (i === index ? { ...s, ...part } : s)),
      easing,
      group,
    );
  };
  const done = (): void => {
    if (document.getState().dragging) document.setDragging(false);
  };
  const keyed = (event: KeyboardEvent, which: number): void => {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    const at = stops[which];
    if (by !== undefined && at) {
      event.preventDefault();
      const moved = { ...at, at: held(at.at + by * (event.shiftKey ? 0.1 : 0.01)) };
      const next = stops.map((s, i) => (i === which ? moved : s));
      write(next);
      choose(next, moved);
    }
    if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      remove(which);
    }
  };
  const read = (load: () => Promise<WrittenStop[]>): void => {
    setFrom(null);
    setMessage('');
    load().then(
      (next) => {
        write(next, 'linear');
        setMessage(`read as ${String(next.length)} stops`);
      },
      (error: unknown) => {
        const why = sentence(error);
        setMessage(why.startsWith('is ') ? `The file ${why}` : why);
      },
    );
  };
  const asFile = (): Promise<Blob> => pixels('sources').rampFile(stops, easing, FILE_WIDTH).then(fileOf);
  const color = stop ? colorOfHex(stop.hex) : [0, 0, 0, 1];

  return (
    <Box sx={{ px: 1.5, py: 1 }}>
      <Box
        ref={strip}
        onPointerDown={(event) => {
          if (event.target === event.currentTarget)
            add(held(partsOn(event.currentTarget, { x: event.clientX, y: event.clientY })[0]));
        }}
        sx={{
          height: 36,
          mx: 1,
          cursor: 'copy',
          border: 1,
          borderColor: 'divider',
          backgroundImage: `url(${rampPicture(stops, easing, 512)}), repeating-conic-gradient(${tokens.row} 0 25%, ${tokens.raise} 0 50%)`,
          backgroundSize: '100% 100%, 16px 16px',
        }}
        title="Click to add a stop"
      />
      <Box sx={{ position: 'relative', height: 26, mx: 1 }}>
        {stops.map((s, i) => (
          <Box
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`Stop ${String(i + 1)} of ${String(stops.length)}`}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(s.at * 100)}
            aria-valuetext={`${String(Math.round(s.at * 100))}%, ${s.hex}`}
            onFocus={() => {
              setSelected(i);
            }}
            onKeyDown={(event) => {
              keyed(event, i);
            }}
            {...drag(i)}
            sx={{
              position: 'absolute',
              left: `${String(s.at * 100)}%`,
              top: 2,
              width: 14,
              height: 20,
              ml: '-7px',
              borderRadius: '2px',
              border: '2px solid',
              borderColor: i === index ? tokens.text : tokens.dim,
              bgcolor: s.hex.slice(0, s.hex.length > 5 ? 7 : 4),
              cursor: 'grab',
              touchAction: 'none',
            }}
          />
        ))}
      </Box>
      {stop && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap', mt: 0.5 }}>
          <TextField
            key={`${String(index)} ${String(stop.at)}`}
            label="Position"
            defaultValue={`${String(Math.round(stop.at * 1000) / 10)}%`}
            onBlur={(event) => {
              const value = Number.parseFloat(event.target.value) / 100;
              if (Number.isFinite(value) && Math.abs(value - stop.at) > 1e-6) change({ at: held(value) });
            }}
            onKeyDown={(event) => {
              if (event.key === 'Enter') (event.target as HTMLElement).blur();
            }}
            slotProps={{ htmlInput: { inputMode: 'decimal' } }}
            sx={{ width: 80 }}
          />
          <Box
            component="input"
            type="color"
            aria-label="Colour of the stop"
            value={hexOfColor([...color.slice(0, 3), 1])}
            onInput={(event) => {
              change(
                { hex: hexOfColor([...colorOfHex(event.currentTarget.value).slice(0, 3), color[3] ?? 1]) },
                `color of ${name}`,
              );
            }}
            onBlur={done}
            onChange={done}
            sx={{
              width: 56,
              height: 26,
              p: 0,
              border: 1,
              borderColor: 'divider',
              borderRadius: '3px',
              bgcolor: 'transparent',
            }}
          />
          <Typography sx={{ color: 'text.secondary' }}>alpha</Typography>
          <Slider
            aria-label="Alpha of the stop"
            min={0}
            max={1}
            step={1 / 255}
            value={color[3] ?? 1}
            onChange={(_, alpha) => {
              change({ hex: hexOfColor([...color.slice(0, 3), alpha]) }, `alpha of ${name}`);
            }}
            onChangeCommitted={done}
            sx={{ width: 90 }}
          />
          <Button
            disabled={stops.length <= 2}
            onClick={() => {
              remove(index);
            }}
          >
            Remove
          </Button>
        </Box>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, flexWrap: 'wrap', mt: 0.5 }}>
        <ToggleButtonGroup
          exclusive
          value={easing}
          aria-label="Between stops"
          onChange={(_, next: RampEasing | null) => {
            if (next) write(stops, next);
          }}
        >
          {RAMP_EASINGS.map((e) => (
            <ToggleButton key={e} value={e}>
              {e}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Button
          onClick={() => {
            write(spreadEvenly(stops));
          }}
        >
          Spread evenly
        </Button>
        <Button
          onClick={() => {
            write(reverseStops(stops));
          }}
        >
          Reverse
        </Button>
        <Button
          onClick={(event) => {
            setFrom(event.currentTarget);
          }}
        >
          Import a picture
        </Button>
        <Menu
          anchorEl={from}
          open={from !== null}
          onClose={() => {
            setFrom(null);
          }}
        >
          <MenuItem
            onClick={() => {
              setFrom(null);
              picker.current?.click();
            }}
          >
            A file ...
          </MenuItem>
          {list
            .filter((s) => s.height === 1)
            .map((s) => (
              <MenuItem
                key={s.id}
                onClick={() => {
                  read(() => pixels('sources').rampOfSource(refOf(s)));
                }}
              >
                {s.name}
              </MenuItem>
            ))}
        </Menu>
        <input
          ref={picker}
          type="file"
          hidden
          accept="image/*,.tga"
          aria-label="Ramp picture"
          onChange={(event) => {
            const [file] = event.currentTarget.files ?? [];
            if (file) read(async () => pixels('sources').rampOf(await handOver(file)));
            event.currentTarget.value = '';
          }}
        />
        <Button
          onClick={() => {
            asFile().then(
              (file) => {
                const link = window.document.createElement('a');
                link.href = URL.createObjectURL(file);
                link.download = `${name}.png`;
                link.click();
                URL.revokeObjectURL(link.href);
              },
              (error: unknown) => {
                setMessage(sentence(error));
              },
            );
          }}
        >
          Export PNG
        </Button>
        <Button
          onClick={() => {
            asFile()
              .then((file) =>
                sources.create({ name: freeName(`${name}-ramp.png`, list), file }, `write the ramp ${name}`),
              )
              .then(
                (source) => {
                  setMessage(`saved as ${source.name}`);
                },
                (error: unknown) => {
                  setMessage(sentence(error));
                },
              );
          }}
        >
          Save as a source
        </Button>
        <Typography role="status" sx={{ color: 'text.secondary' }}>
          {message}
        </Typography>
      </Box>
    </Box>
  );
}
