import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { tokens } from './tokens.ts';

/** A line over a page's content that says something once, or what stands in the way of something. */
export function NoticeLine({
  trouble = false,
  children,
}: {
  readonly trouble?: boolean;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box
      role={trouble ? 'alert' : 'status'}
      sx={{
        display: 'flex',
        alignItems: 'center',
        flexWrap: 'wrap',
        gap: 2,
        px: 1.5,
        py: 0.5,
        bgcolor: 'action.selected',
        ...(trouble ? { color: tokens.coral } : {}),
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {children}
    </Box>
  );
}
