import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { COLUMNS, GAP, widthFor } from './columns.ts';

/** A row of the Dials, its cells under the heads of the columns; the first cell, a name, stays in sight. */
export function Row({
  variants,
  head = false,
  children,
}: {
  readonly variants: number;
  readonly head?: boolean;
  readonly children: ReactNode;
}): ReactElement {
  const { name, control, value, range, variant } = COLUMNS;
  const columns = [
    ...[name, control, value, range].map((width) => `${String(width)}px`),
    ...Array.from({ length: variants }, () => `var(--variant, ${String(variant)}px)`),
  ].join(' ');
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        columnGap: `${String(GAP)}px`,
        minHeight: head ? 28 : 30,
        pr: 1.5,
        width: 'max-content',
        minWidth: '100%',
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'background.default',
        ...(head ? { position: 'sticky', top: 0, zIndex: 2, color: 'text.secondary' } : {}),
        '& > :first-child': {
          position: 'sticky',
          left: 0,
          zIndex: 1,
          alignSelf: 'stretch',
          display: 'flex',
          alignItems: 'center',
          pl: 1.5,
          bgcolor: 'background.default',
        },
        // What it does stands there where there is room; the name's tooltip says it in any case.
        '& > :last-child': { display: 'none' },
        [`@container (min-width: ${String(widthFor(variants) + 140)}px)`]: {
          gridTemplateColumns: `${columns} minmax(0, 1fr)`,
          width: 'auto',
          '& > :last-child': { display: 'block' },
        },
      }}
    >
      {children}
    </Box>
  );
}
