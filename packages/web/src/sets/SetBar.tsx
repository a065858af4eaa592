import { Box, Button, IconButton, MenuItem, Select, Slider, Tooltip, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import type { SetBody } from '../api/client.ts';
import { PauseIcon, PlayIcon } from '../ui/icons.tsx';
import { tokens } from '../ui/tokens.ts';
import { SPEEDS, type Clock } from '../material/clock-store.ts';
import { BACKDROPS } from '../material/lighting.ts';
import { ENVIRONMENTS } from '@estela/core';

const small = { height: 26, fontSize: 13, flex: 'none', '& .MuiSelect-select': { pl: 1, py: 0 } } as const;

/** Over a set: its time, light and view, and how long a frame takes. */
export function SetBar({
  set,
  clock,
  drawn: [scale, milliseconds],
  change,
  lookAtAll,
  keepView,
}: {
  readonly set: SetBody;
  readonly clock: Clock;
  readonly drawn: readonly [number, number | undefined];
  readonly change: (title: string, next: Partial<SetBody>, group?: string) => void;
  readonly lookAtAll: () => void;
  readonly keepView: () => void;
}): ReactElement {
  const playing = useStore(clock, (s) => s.playing);
  const speed = useStore(clock, (s) => s.speed);
  const { scene } = set;
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.75,
        height: 36,
        px: 0.75,
        flex: 'none',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Tooltip title={playing ? 'Pause' : 'Play'}>
        <IconButton
          aria-label={playing ? 'Pause' : 'Play'}
          sx={{ color: playing ? tokens.amber : 'text.primary' }}
          onClick={playing ? clock.pause : clock.play}
        >
          {playing ? <PauseIcon /> : <PlayIcon />}
        </IconButton>
      </Tooltip>
      <Select
        value={speed}
        onChange={(event) => {
          clock.setSpeed(event.target.value);
        }}
        inputProps={{ 'aria-label': 'Playback speed' }}
        sx={small}
      >
        {SPEEDS.map((s) => (
          <MenuItem key={s} value={s}>
            {s}x
          </MenuItem>
        ))}
      </Select>
      <Select
        value={scene.environment}
        onChange={(event) => {
          change('light', { scene: { ...scene, environment: event.target.value } });
        }}
        inputProps={{ 'aria-label': 'Environment' }}
        sx={small}
      >
        {Object.entries(ENVIRONMENTS).map(([key, { label }]) => (
          <MenuItem key={key} value={key}>
            {label}
          </MenuItem>
        ))}
      </Select>
      <Select
        value={scene.backdrop}
        onChange={(event) => {
          change('backdrop', { scene: { ...scene, backdrop: event.target.value } });
        }}
        inputProps={{ 'aria-label': 'Backdrop' }}
        sx={small}
      >
        {Object.entries(BACKDROPS).map(([key, label]) => (
          <MenuItem key={key} value={key}>
            {label}
          </MenuItem>
        ))}
      </Select>
      <Typography sx={{ color: 'text.secondary', ml: 0.5 }}>Exposure</Typography>
      <Slider
        aria-label="Exposure"
        min={-4}
        max={4}
        step={0.1}
        value={scene.exposure}
        sx={{ width: 90, mx: 1 }}
        onChange={(_, exposure) => {
          change('exposure', { scene: { ...scene, exposure } }, 'exposure');
        }}
      />
      <Typography
        noWrap
        title="Time of a frame"
        sx={{ ml: 'auto', color: 'text.secondary', fontSize: 12, fontVariantNumeric: 'tabular-nums' }}
      >
        {milliseconds !== undefined && `${milliseconds.toFixed(0)} ms`}
        {scale < 1 && ` at ${String(Math.round(scale * 100))}%`}
      </Typography>
      <Button onClick={lookAtAll}>See all</Button>
      <Button title="Open the set with this view" onClick={keepView}>
        Save this view
      </Button>
    </Box>
  );
}
