import { Box, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

/** A titled part of a side panel. */
export function Section({
  title,
  action,
  children,
}: {
  readonly title: string;
  readonly action?: ReactNode;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box component="section" aria-label={title} sx={{ px: 1.5, py: 1, borderBottom: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 30 }}>
        <Typography variant="h2" sx={{ fontSize: 14 }}>
          {title}
        </Typography>
        {action}
      </Box>
      {children}
    </Box>
  );
}
