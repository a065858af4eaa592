import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { Link } from 'react-router';
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
      }}
    >
      {children}
    </Box>
  );
}

/** The caption of a card, which opens what its picture shows. */
export function CaptionLink({
  to,
  label,
  children,
}: {
  readonly to: string;
  /** What it does, with the caption in it. */
  readonly label: string;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box
      component={Link}
      to={to}
      aria-label={label}
      sx={{ color: 'inherit', textDecoration: 'none', '&:hover': { textDecoration: 'underline' } }}
    >
      {children}
    </Box>
  );
}
