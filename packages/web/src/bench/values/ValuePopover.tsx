import { literalAt, makeDial } from '@estela/core';
import { Box, Button, MenuItem, MenuList, Popover, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { faces } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { hostOf } from './text-host.ts';
import { ValueControl } from './ValueControl.tsx';

/** The control of a value that was opened in the Score, where it stands. */
export function ValuePopover(): ReactElement | null {
  const { document, value, debounced } = useSession();
  const at = useStore(value, (s) => s.at);
  const program = useStore(debounced, (s) => s.derived.program);
  const literal = at && literalAt(program, at.from);
  if (!literal) return null;
  const host = hostOf(document);
  const close = (): void => {
    host.done();
    value.setState({ at: undefined });
  };
  const name = literal.parameter?.name ?? (literal.statement.kind === 'dial' ? literal.statement.name.name : 'value');
  const written = program.tree.text.slice(literal.from, literal.to);
  const dial = makeDial(program, literal);
  return (
    <Popover
      open
      onClose={close}
      anchorReference="anchorPosition"
      anchorPosition={{ left: at.left, top: at.top }}
      slotProps={{
        paper: {
          role: 'dialog',
          'aria-label': `Value of ${name}`,
          sx: { border: 1, borderColor: 'divider', bgcolor: 'background.paper' },
        },
      }}
    >
      {literal.kind === 'keyword' || literal.kind === 'on-off' ? (
        <MenuList autoFocusItem dense>
          {literal.words.map((word) => (
            <MenuItem
              key={word}
              selected={word === written}
              onClick={() => {
                host.edit([{ from: literal.from, to: literal.to, insert: word }]);
                close();
              }}
            >
              {word}
            </MenuItem>
          ))}
        </MenuList>
      ) : (
        <Box sx={{ p: 1.25, display: 'flex', flexDirection: 'column', gap: 1 }}>
          <Box sx={{ display: 'flex', gap: 2, justifyContent: 'space-between' }}>
            <Typography>{name}</Typography>
            <Typography sx={{ fontFamily: faces.figures }}>{written}</Typography>
          </Box>
          <ValueControl literal={literal} name={name} host={host} large />
          {'edits' in dial && (
            <Button
              variant="outlined"
              onClick={() => {
                host.edit(dial.edits);
                close();
              }}
            >
              Make a dial
            </Button>
          )}
        </Box>
      )}
    </Popover>
  );
}
