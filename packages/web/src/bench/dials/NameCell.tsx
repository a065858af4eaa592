import {
  groupsOf,
  isName,
  literalForUse,
  moveExposed,
  namesOf,
  removeExposed,
  renameName,
  setGroup,
  setHelp,
  type Program,
} from '@estela/core';
import { Box, Divider, IconButton, Menu, MenuItem, Tooltip } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { MoreIcon } from '../../ui/icons.tsx';
import { NameDialog } from '../../ui/dialogs.tsx';
import { useSession } from '../session.ts';

/** The name of a dial or switch, and what can be done with it. */
export function NameCell({
  name,
  help,
  idle = false,
}: {
  readonly name: string;
  readonly help: string;
  readonly idle?: boolean;
}): ReactElement {
  const { document, shown } = useSession();
  // The text of now, each time: the row is drawn anew only when what it shows changes.
  const now = (): Program => document.getState().derived.program;
  const linked = useStore(shown, (s) => s.linked);
  const beside = useStore(shown, (s) => s.beside);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [ask, setAsk] = useState<'name' | 'help' | 'group'>();
  const groups = menu ? groupsOf(now().tree) : new Map<string, string>();
  const group = groups.get(name) ?? '';
  const others = [...new Set(groups.values())].filter((g) => g !== group);
  const close = (): void => {
    setMenu(null);
  };
  const act = (action: () => void) => (): void => {
    close();
    action();
  };
  const remove = (): void => {
    const program = now();
    const dial = program.dials.find((d) => d.name === name);
    const on = program.switches.find((s) => s.name === name)?.on;
    document.edit(removeExposed(program.tree, name, dial ? literalForUse(dial, program) : on === true ? '1' : '0'));
  };
  const dialogs = {
    name: {
      title: `Rename ${name}`,
      label: 'Name',
      start: name,
      act: (next: string) => {
        if (!isName(next))
          return Promise.reject(new Error('Use lower-case letters, digits and _, starting with a letter.'));
        if (next !== name && namesOf(now()).has(next)) return Promise.reject(new Error(`'${next}' is taken.`));
        document.edit(renameName(now().tree, name, next));
        return Promise.resolve();
      },
    },
    help: {
      title: `What ${name} does`,
      label: 'Description',
      start: help,
      act: (words: string) => {
        document.edit(setHelp(now().tree, name, words));
        return Promise.resolve();
      },
    },
    group: {
      title: `A new group for ${name}`,
      label: 'Heading',
      start: '',
      act: (heading: string) => {
        document.edit(setGroup(now().tree, name, heading));
        return Promise.resolve();
      },
    },
  } as const;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', minWidth: 0 }}>
      <Tooltip title={help} placement="left">
        <Box
          sx={{
            flex: 1,
            minWidth: 0,
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
            color: idle ? 'text.secondary' : 'text.primary',
          }}
        >
          {name}
        </Box>
      </Tooltip>
      <IconButton
        aria-label={`More for ${name}`}
        aria-haspopup="menu"
        onClick={(event) => {
          setMenu(event.currentTarget);
        }}
        sx={{ width: 24, height: 24, flex: 'none' }}
      >
        <MoreIcon />
      </IconButton>
      <Menu anchorEl={menu} open={menu !== null} onClose={close}>
        <MenuItem
          onClick={act(() => {
            setAsk('name');
          })}
        >
          Rename
        </MenuItem>
        <MenuItem
          onClick={act(() => {
            setAsk('help');
          })}
        >
          Describe
        </MenuItem>
        <MenuItem
          onClick={act(() => {
            document.edit(moveExposed(now().tree, name, -1));
          })}
        >
          Move up
        </MenuItem>
        <MenuItem
          onClick={act(() => {
            document.edit(moveExposed(now().tree, name, 1));
          })}
        >
          Move down
        </MenuItem>
        {beside && (
          <MenuItem
            onClick={act(() => {
              const next = new Set(linked);
              if (!next.delete(name)) next.add(name);
              shown.setState({ linked: next });
            })}
          >
            {linked.has(name) ? 'Compare with the base value' : 'Compare with one value on both sides'}
          </MenuItem>
        )}
        <Divider />
        <MenuItem
          onClick={act(() => {
            setAsk('group');
          })}
        >
          New group
        </MenuItem>
        {others.map((g) => (
          <MenuItem
            key={g}
            onClick={act(() => {
              document.edit(setGroup(now().tree, name, g));
            })}
          >
            {g === '' ? 'Remove from group' : `Into ${g}`}
          </MenuItem>
        ))}
        {group !== '' && !others.includes('') && (
          <MenuItem
            onClick={act(() => {
              document.edit(setGroup(now().tree, name, ''));
            })}
          >
            Remove from group
          </MenuItem>
        )}
        <Divider />
        <MenuItem title="Its value is written wherever it was used" onClick={act(remove)}>
          Delete
        </MenuItem>
      </Menu>
      {ask && (
        <NameDialog
          verb="Write"
          close={() => {
            setAsk(undefined);
          }}
          {...dialogs[ask]}
        />
      )}
    </Box>
  );
}
