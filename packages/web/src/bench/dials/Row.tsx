import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { columnsFor } from './columns.ts';

/** A row of the Dials, its cells under the heads of the columns. */
export function Row({ variants, children }: { readonly variants: number; readonly children: ReactNode }): ReactElement {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: columnsFor(variants),
        alignItems: 'center',
        columnGap: 1,
        minHeight: 30,
        px: 1.5,
        minWidth: 'max-content',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {children}
    </Box>
  );
}
