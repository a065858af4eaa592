import { Box, Button, CircularProgress, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { ReactElement, ReactNode } from 'react';
import { Mark } from './Mark.tsx';
import { tokens } from './tokens.ts';

/**
 * The bar at the top of every view: the mark, then what the view puts there; where the window is narrower than `least`
 * pixels, it is scrolled to.
 */
export function TopBar({
  children,
  least = 0,
}: {
  readonly children?: ReactNode;
  readonly least?: number;
}): ReactElement {
  return (
    <Box
      component="header"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        height: 44,
        minWidth: least,
        px: 1.5,
        flex: 'none',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Box
        component={Link}
        to="/"
        aria-label="Estela, to the Shelf"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          color: 'text.primary',
          textDecoration: 'none',
          fontWeight: 500,
          fontSize: 14,
        }}
      >
        <Mark />
        Estela
      </Box>
      {children}
    </Box>
  );
}

export const placeLink = {
  color: 'text.secondary',
  textDecoration: 'none',
  whiteSpace: 'nowrap',
  '&:hover': { color: 'text.primary' },
} as const;

/** Where a view belongs, from the Shelf down, and what it is; with links to its neighbours behind. */
export function Place({
  links,
  here,
  more,
}: {
  readonly links: readonly { readonly to?: string; readonly label: string }[];
  readonly here: string;
  readonly more?: ReactNode;
}): ReactElement {
  return (
    <Box component="nav" aria-label="Place" sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
      {links.map(({ to, label }) => (
        <Box
          key={label}
          component="span"
          sx={{ display: 'flex', gap: 1, whiteSpace: 'nowrap', color: 'text.secondary' }}
        >
          {to === undefined ? (
            label
          ) : (
            <Box component={Link} to={to} sx={placeLink}>
              {label}
            </Box>
          )}
          <span aria-hidden="true">/</span>
        </Box>
      ))}
      <Typography component="h1" noWrap sx={{ fontWeight: 500, fontSize: 14 }}>
        {here}
      </Typography>
      {more !== undefined && <Box sx={{ ml: 1.5, display: 'flex', gap: 1.5 }}>{more}</Box>}
    </Box>
  );
}

/** What a view shows while it waits, when it failed, and when there is nothing yet. */
export function Notice({
  title,
  detail,
  action,
  busy = false,
  alert = false,
}: {
  readonly title: string;
  readonly detail?: string;
  readonly action?: ReactNode;
  readonly busy?: boolean;
  readonly alert?: boolean;
}): ReactElement {
  return (
    <Box
      role={alert ? 'alert' : 'status'}
      sx={{
        flex: 1,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'center',
        justifyContent: 'center',
        gap: 1,
        p: 4,
        textAlign: 'center',
      }}
    >
      {busy && <CircularProgress size={20} aria-hidden="true" />}
      <Typography variant="h2" component="p" sx={{ color: alert ? tokens.coral : 'text.primary' }}>
        {title}
      </Typography>
      {detail !== undefined && <Typography sx={{ color: 'text.secondary', maxWidth: 480 }}>{detail}</Typography>}
      {action}
    </Box>
  );
}

export function NotFoundPage(): ReactElement {
  return (
    <>
      <TopBar />
      <Notice
        title="Page not found"
        detail="The material or project may have been deleted, or the link is incomplete."
        action={
          <Button component={Link} to="/" variant="outlined">
            To the Shelf
          </Button>
        }
      />
    </>
  );
}
