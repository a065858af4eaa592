import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { tokens } from '../../app/tokens.ts';

/** What a lens shows, in words, at the foot of the Stage. */
export function Legend({ children }: { readonly children: ReactNode }): ReactElement {
  return (
    <Box
      role="status"
      aria-label="What the lens shows"
      sx={{
        position: 'absolute',
        left: 8,
        bottom: 8,
        px: 1,
        py: 0.5,
        bgcolor: tokens.floor,
        border: 1,
        borderColor: 'divider',
        borderRadius: '3px',
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        maxWidth: 'calc(100% - 16px)',
      }}
    >
      {children}
    </Box>
  );
}

/** A scale of inks from the least to the most. */
export function InkScale({ inks }: { readonly inks: readonly string[] }): ReactElement {
  return (
    <Box
      aria-hidden="true"
      sx={{ width: 72, height: 10, flex: 'none', background: `linear-gradient(90deg, ${inks.join(', ')})`, border: 1, borderColor: 'divider' }}
    />
  );
}
