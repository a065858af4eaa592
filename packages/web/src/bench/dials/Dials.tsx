import { Box, Switch as Toggle, Typography } from '@mui/material';
import { setDefault } from '@estela/core';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { useSession } from '../session.ts';
import { DialRow } from './DialRow.tsx';
import { Row } from './Row.tsx';

/** The exposed parameters. Each control writes the default in the text; the shader takes it as a uniform. */
export function Dials(): ReactElement {
  const { document } = useSession();
  const program = useStore(document, (s) => s.derived.program);
  const { dials, switches } = program;
  return (
    <Box component="section" aria-label="Dials" sx={{ flex: 'none', height: 204, overflow: 'auto', borderTop: 1, borderColor: 'divider' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          height: 30,
          px: 1.5,
          color: 'text.secondary',
          borderBottom: 1,
          borderColor: 'divider',
          position: 'sticky',
          top: 0,
          bgcolor: 'background.default',
          zIndex: 1,
        }}
      >
        Dials
      </Box>
      {dials.length + switches.length === 0 && (
        <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
          No dials yet. A line such as &apos;dial fall: laps = 2 in -6..6&apos; in the text makes one.
        </Typography>
      )}
      {dials.map((dial) => (
        <DialRow key={dial.name} dial={dial} loop={program.loop} />
      ))}
      {switches.map((s) => (
        <Row key={s.name} name={s.name} help={s.help}>
          <Toggle
            size="small"
            checked={s.on}
            slotProps={{ input: { 'aria-label': s.name } }}
            onChange={(_, on) => {
              document.edit(setDefault(document.getState().derived.program.tree, s.name, on ? 'on' : 'off'));
            }}
          />
          <Typography component="span" sx={{ color: 'text.secondary' }}>
            {s.on ? 'on' : 'off'}
          </Typography>
        </Row>
      ))}
    </Box>
  );
}
