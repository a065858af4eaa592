import { setLoop, SHIFTS, type Report, type Verdict } from '@estela/core';
import { Box, Button, Popover, TextField, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { material } from '../../workers/material.ts';
import { subjectOf } from '../checks/checks-store.ts';
import { useSession } from '../session.ts';

const WORDS: Record<Verdict, string> = {
  always: 'at every setting',
  present: 'these settings',
  open: 'no',
  unproven: 'not proven',
};
const SHIFT_WORDS = { loop: 'Loops', tile_u: 'Tiles across', tile_v: 'Tiles down' } as const;

const text = (v: number): string => String(Number(v.toPrecision(6)));

/**
 * How long the loop is and how fast its frames come. Both are edited in place, and what that would do to every verdict
 * is shown first.
 */
export function LoopLength(): ReactElement {
  const { debounced } = useSession();
  const { seconds, fps, frames } = useStore(debounced, (s) => s.derived.program.loop);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        aria-label={`Loop ${text(seconds)} s at ${text(fps)} fps, ${String(frames)} frames: change it`}
        title="Change the loop's length or frame rate"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
        sx={{ px: 1, columnGap: 0.75, color: 'text.secondary', fontWeight: 400, flex: 'none' }}
      >
        loop <Figure>{text(seconds)} s</Figure> at <Figure>{text(fps)} fps</Figure>
      </Button>
      {anchor && (
        <LoopForm
          anchor={anchor}
          close={() => {
            setAnchor(null);
          }}
        />
      )}
    </>
  );
}

function Figure({ children }: { readonly children: React.ReactNode }): ReactElement {
  return (
    <Box
      component="span"
      sx={{ color: 'text.primary', fontFamily: faces.figures, borderBottom: `1px dotted ${tokens.dim}` }}
    >
      {children}
    </Box>
  );
}

type Outcome = Report | 'refused' | undefined;

function LoopForm({ anchor, close }: { readonly anchor: HTMLElement; readonly close: () => void }): ReactElement {
  const session = useSession();
  const { document, debounced, shown, sources } = session;
  const { loop, tree } = useStore(debounced, (s) => s.derived.program);
  const report = useStore(session.checks, (s) => s.report);
  const [seconds, setSeconds] = useState(text(loop.seconds));
  const [fps, setFps] = useState(text(loop.fps));
  const [outcome, setOutcome] = useState<Outcome>();
  const [s, f] = [Number(seconds), Number(fps)];
  const frames = Math.round(s * f * 1e6) / 1e6;
  const complaint =
    !(s > 0 && s <= 3600) || !(f >= 1 && f <= 240)
      ? 'A loop must be longer than 0 s and at most 3600 s, at 1 to 240 fps.'
      : Number.isInteger(frames)
        ? undefined
        : `That is ${String(frames)} frames; a loop must have a whole number of frames.`;
  const same = s === loop.seconds && f === loop.fps;
  const edits = complaint === undefined && !same ? setLoop(tree, s, f) : [];
  const key = JSON.stringify(edits);

  useEffect(() => {
    const wanted = JSON.parse(key) as typeof edits;
    if (wanted.length === 0) return undefined;
    let gone = false;
    const timer = setTimeout(() => {
      material('draw')
        .after(subjectOf(debounced.getState(), shown.getState(), sources), wanted)
        .then(
          (after) => {
            if (!gone) setOutcome(after ?? 'refused');
          },
          () => undefined,
        );
    }, 120);
    return () => {
      gone = true;
      clearTimeout(timer);
      setOutcome(undefined);
    };
  }, [key, debounced, shown, sources]);

  const apply = (): void => {
    if (edits.length > 0 && tree.text === document.getState().text) document.edit(edits);
    close();
  };
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={close}
      anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
      transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{
        paper: {
          role: 'dialog',
          'aria-label': 'Length of the loop',
          sx: { border: 1, borderColor: 'divider', bgcolor: 'background.paper', width: 360, p: 1.5 },
        },
      }}
    >
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          if (complaint === undefined) apply();
        }}
      >
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mb: 1 }}>
          <TextField
            label="Seconds"
            value={seconds}
            autoFocus
            onChange={(event) => {
              setSeconds(event.target.value);
            }}
            sx={{ width: 104 }}
          />
          <TextField
            label="Frames per second"
            value={fps}
            onChange={(event) => {
              setFps(event.target.value);
            }}
            sx={{ width: 120 }}
          />
          <Typography sx={{ color: 'text.secondary' }}>
            {Number.isInteger(frames) ? `${String(frames)} frames` : ''}
          </Typography>
        </Box>
        {complaint !== undefined && (
          <Typography role="alert" sx={{ color: tokens.coral }}>
            {complaint}
          </Typography>
        )}
        {complaint === undefined && same && (
          <Typography sx={{ color: 'text.secondary' }}>
            Laps follow the loop length; rates per second do not. The effect is shown here.
          </Typography>
        )}
        {complaint === undefined && !same && <Effects before={report} after={outcome} />}
        <Box sx={{ display: 'flex', justifyContent: 'flex-end', gap: 1, mt: 1 }}>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={complaint !== undefined || same}>
            Apply
          </Button>
        </Box>
      </Box>
    </Popover>
  );
}

/** Every verdict as it is and as it would be. */
function Effects({ before, after }: { readonly before: Report | undefined; readonly after: Outcome }): ReactElement {
  if (after === undefined) return <Typography sx={{ color: 'text.secondary' }}>Proving the effect ...</Typography>;
  if (after === 'refused') return <Typography sx={{ color: tokens.coral }}>This would cause errors.</Typography>;
  const open = (r: Report | undefined): number =>
    new Set(r?.movements.filter((m) => m.state === 'open').map((m) => m.step)).size;
  const rows: readonly (readonly [string, string, string, boolean])[] = [
    ...SHIFTS.map(
      (s) =>
        [
          SHIFT_WORDS[s],
          before ? WORDS[before.verdicts.whole.verdicts[s]] : '',
          WORDS[after.verdicts.whole.verdicts[s]],
          after.verdicts.whole.verdicts[s] === 'open',
        ] as const,
    ),
    ...after.variants.flatMap((v) => {
      const was = before?.variants.find((o) => o.name === v.name)?.verdicts.verdicts.loop;
      return v.name === undefined
        ? []
        : [
            [
              `Loops in ${v.name}`,
              was ? WORDS[was] : '',
              WORDS[v.verdicts.verdicts.loop],
              v.verdicts.verdicts.loop === 'open',
            ] as const,
          ];
    }),
    ['Steps that do not close', String(open(before)), String(open(after)), open(after) > 0],
  ];
  return (
    <Box
      component="table"
      aria-label="Effect"
      sx={{
        width: '100%',
        borderCollapse: 'collapse',
        '& td, & th': { textAlign: 'left', p: '2px 6px 2px 0', fontWeight: 400 },
      }}
    >
      <thead>
        <Box component="tr" sx={{ color: 'text.secondary' }}>
          <th>Verdict</th>
          <th>now</th>
          <th>then</th>
        </Box>
      </thead>
      <tbody>
        {rows.map(([name, was, will, bad]) => (
          <tr key={name}>
            <td>{name}</td>
            <td>{was}</td>
            <Box component="td" sx={{ color: bad ? tokens.coral : was === will ? 'text.secondary' : 'text.primary' }}>
              {will}
            </Box>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
