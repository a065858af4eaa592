import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { tokens } from '../ui/tokens.ts';

/**
 * A few words at the foot of the Stage, or at its top with a button to end what they tell; with a coral edge where they
 * tell what is wrong.
 */
export function StageNote({
  role = 'status',
  label,
  top = false,
  wrong = false,
  children,
}: {
  readonly role?: 'status' | 'alert';
  readonly label?: string;
  readonly top?: boolean;
  readonly wrong?: boolean;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box
      role={role}
      aria-label={label}
      sx={{
        position: 'absolute',
        left: 8,
        ...(top ? { top: 8, pl: 1, pr: 1, minHeight: 28 } : { bottom: 8, px: 1, py: 0.5 }),
        bgcolor: tokens.floor,
        border: 1,
        borderColor: wrong ? tokens.coral : 'divider',
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

/** What a lens shows, in words. */
export const Legend = ({ children }: { readonly children: ReactNode }): ReactElement => (
  <StageNote label="What the lens shows">{children}</StageNote>
);

/** A scale of inks from the least to the most. */
export function InkScale({ inks }: { readonly inks: readonly string[] }): ReactElement {
  return (
    <Box
      aria-hidden="true"
      sx={{
        width: 72,
        height: 10,
        flex: 'none',
        background: `linear-gradient(90deg, ${inks.join(', ')})`,
        border: 1,
        borderColor: 'divider',
      }}
    />
  );
}
