import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { tokens } from './tokens.ts';

/** One of a list of things that are opened by their pictures. */
export function CardItem({ children }: { readonly children: ReactNode }): ReactElement {
  return (
    <Box
      component="li"
      sx={{
        listStyle: 'none',
        border: 1,
        borderColor: 'divider',
        borderRadius: '3px',
        bgcolor: 'background.paper',
        overflow: 'hidden',
        '&:hover': { borderColor: tokens.dim },
        '& > a:focus-visible': { outlineOffset: -2 },
      }}
    >
      {children}
    </Box>
  );
}
