import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

/** A line over a page's content that says something once. */
export function NoticeLine({ children }: { readonly children: ReactNode }): ReactElement {
  return (
    <Box
      role="status"
      sx={{
        display: 'flex',
        alignItems: 'center',
        flexWrap: 'wrap',
        gap: 2,
        px: 1.5,
        py: 0.5,
        bgcolor: 'action.selected',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {children}
    </Box>
  );
}
