import { Box, Tooltip } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

/** A row of the Dials: the name, with its help, then the controls. */
export function Row({ name, help, children }: { readonly name: string; readonly help: string; readonly children: ReactNode }): ReactElement {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, minHeight: 30, px: 1.5, borderBottom: 1, borderColor: 'divider' }}>
      <Tooltip title={help} placement="left">
        <Box sx={{ width: 96, flex: 'none', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{name}</Box>
      </Tooltip>
      {children}
      <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', color: 'text.secondary' }}>{help}</Box>
    </Box>
  );
}
