import type { FrameChoice } from '@estela/core';
import { Box, Button, LinearProgress, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { useStore } from 'zustand';
import { NumberField } from '../../ui/NumberField.tsx';
import { faces, tokens } from '../../ui/tokens.ts';
import type { BakedSubject } from '../../workers/baking.worker.ts';
import { useSession } from '../session.ts';
import type { MeasuredNearness } from './desk.ts';

type Playing = 'held' | 'blended';
const WORDS: Readonly<Record<Playing, string>> = { held: 'each frame held', blended: 'frames blended' };

const figure = (value: number): string => value.toFixed(value < 10 ? 2 : 1);

/** How many frames, and how many pixels, are enough: measured, and chosen by what the user thinks near enough. */
export function Enough({ subject, of }: { readonly subject: BakedSubject; readonly of: string }): ReactElement {
  const { desk } = useSession();
  const nearness = useStore(desk.nearness);
  const found = nearness.state === 'done' && nearness.result.of === of ? nearness.result : undefined;
  const stale = nearness.state === 'done' && !found;
  return (
    <Box component="section" aria-label="How many frames are enough">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 32 }}>
        <Typography component="h3" sx={{ color: 'text.secondary' }}>
          How many frames are enough
        </Typography>
        {nearness.state === 'running' ? (
          <>
            <LinearProgress
              variant="determinate"
              aria-label="Measuring"
              value={nearness.share * 100}
              sx={{ flex: 1, maxWidth: 200 }}
            />
            <Button
              onClick={() => {
                desk.stop('nearness');
              }}
            >
              Stop
            </Button>
          </>
        ) : (
          <Button
            variant="outlined"
            title="Compares flipbooks of 4 to 128 frames with the live material, between their frames"
            onClick={() => {
              desk.measure(subject, of);
            }}
          >
            {stale ? 'Measure again' : 'Measure'}
          </Button>
        )}
        {stale && <Typography sx={{ color: 'text.secondary' }}>The material has changed since.</Typography>}
      </Box>
      {nearness.state === 'failed' && (
        <Typography role="alert" sx={{ color: tokens.coral }}>
          {nearness.message}
        </Typography>
      )}
      {found && <Measured found={found} />}
    </Box>
  );
}

function Measured({ found: { choices, half } }: { readonly found: MeasuredNearness }): ReactElement {
  const { desk } = useSession();
  const [playing, setPlaying] = useState<Playing>('held');
  const [limit, setLimit] = useState(5);
  const draft = useStore(desk.draft);
  const enough = choices.find((c) => c[playing].mean <= limit);
  const take = (count: number): void => {
    desk.draft.setState({ taking: 'count', count, columns: undefined });
  };
  const most = Math.max(...choices.map((c) => c[playing].mean), limit);
  return (
    <Box sx={{ display: 'flex', gap: 2, flexWrap: 'wrap', alignItems: 'flex-start' }}>
      <Box>
        <Box sx={{ width: 250, height: 110 }} aria-hidden="true">
          <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 250, height: 110 }}>
            <LineChart
              accessibilityLayer={false}
              data={choices.map((c) => ({ count: String(c.count), mean: c[playing].mean }))}
              margin={{ top: 6, right: 8, bottom: 0, left: -28 }}
            >
              <XAxis dataKey="count" tick={{ fontSize: 11, fill: tokens.dim }} stroke={tokens.line} tickMargin={2} />
              <YAxis domain={[0, Math.ceil(most)]} tick={{ fontSize: 11, fill: tokens.dim }} stroke={tokens.line} />
              <ReferenceLine y={limit} stroke={tokens.coral} strokeDasharray="3 3" />
              <Line
                type="linear"
                dataKey="mean"
                stroke={tokens.amber}
                strokeWidth={1.5}
                dot={{ r: 2.5, fill: tokens.amber }}
                isAnimationActive={false}
              />
            </LineChart>
          </ResponsiveContainer>
        </Box>
        <Typography variant="caption" component="p" sx={{ color: 'text.secondary', maxWidth: 250 }}>
          Mean difference (0 to 255) by number of frames
        </Typography>
      </Box>
      <Box sx={{ display: 'grid', gap: 0.75 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, flexWrap: 'wrap' }}>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={playing}
            aria-label="Playback in the engine"
            onChange={(_, next: Playing | null) => {
              if (next) setPlaying(next);
            }}
          >
            {(['held', 'blended'] as const).map((p) => (
              <ToggleButton key={p} value={p}>
                {WORDS[p]}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
          Accept a difference below
          <NumberField
            label="Largest accepted mean difference"
            value={limit}
            step={0.5}
            min={0}
            max={255}
            width={52}
            set={setLimit}
          />
          of 255
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          {enough ? (
            <>
              <Typography>
                {String(enough.count)} frames are enough: {figure(enough[playing].mean)}
              </Typography>
              <Button
                variant="outlined"
                disabled={draft.taking === 'count' && draft.count === enough.count}
                onClick={() => {
                  take(enough.count);
                }}
              >
                Use {enough.count} frames
              </Button>
            </>
          ) : (
            <Typography>{choices.at(-1)?.count} frames are not enough.</Typography>
          )}
        </Box>
        <Table
          choices={choices}
          playing={playing}
          take={take}
          chosen={draft.taking === 'count' ? draft.count : undefined}
        />
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Typography sx={{ color: 'text.secondary' }}>
            Half the size, enlarged: {figure(half.mean)}, at most {String(half.largest)}
          </Typography>
          {half.mean <= limit && Math.min(draft.width, draft.height) > 16 && (
            <Button
              variant="outlined"
              onClick={() => {
                desk.draft.setState({ width: Math.round(draft.width / 2), height: Math.round(draft.height / 2) });
              }}
            >
              Use half the size
            </Button>
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** The same in figures: each count can be taken. */
function Table({
  choices,
  playing,
  take,
  chosen,
}: {
  readonly choices: readonly FrameChoice[];
  readonly playing: Playing;
  readonly take: (count: number) => void;
  readonly chosen: number | undefined;
}): ReactElement {
  return (
    <Box
      component="table"
      aria-label={`Differences, ${WORDS[playing]}`}
      sx={{
        borderCollapse: 'collapse',
        '& td, & th': { textAlign: 'right', py: 0, px: 0.75, fontWeight: 400, fontSize: 12 },
        '& th': { color: 'text.secondary', textAlign: 'left' },
        '& td': { fontFamily: faces.figures },
      }}
    >
      <tbody>
        <tr>
          <th scope="row">frames</th>
          {choices.map(({ count }) => (
            <td key={count}>
              <Button
                aria-pressed={count === chosen}
                aria-label={`Take ${String(count)} frames`}
                sx={{ minWidth: 24, minHeight: 22, p: 0.25, bgcolor: count === chosen ? tokens.select : undefined }}
                onClick={() => {
                  take(count);
                }}
              >
                {count}
              </Button>
            </td>
          ))}
        </tr>
        {(['mean', 'largest'] as const).map((of) => (
          <tr key={of}>
            <th scope="row">{of}</th>
            {choices.map((c) => (
              <td key={c.count}>{of === 'mean' ? figure(c[playing].mean) : c[playing].largest}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
