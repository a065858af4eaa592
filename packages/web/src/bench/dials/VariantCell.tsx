import { setVariantValue, type Program } from '@estela/core';
import { Box, IconButton } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { CloseIcon } from '../../ui/icons.tsx';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';

/**
 * A value of a variant: one of its own can be given up for the base's, and one that is refused is marked with the
 * reason.
 */
export function VariantCell({
  program,
  title,
  name,
  children,
}: {
  readonly program: Program;
  readonly title: string;
  readonly name: string;
  readonly children: ReactNode;
}): ReactElement {
  const { document } = useSession();
  const statement = program.tree.statements.find((s) => s.kind === 'variant' && s.title === title);
  const entry = statement?.kind === 'variant' ? statement.entries.find((e) => e.name.name === name) : undefined;
  const wrong =
    entry && program.diagnostics.find((d) => d.severity === 'error' && d.from >= entry.from && d.to <= entry.to);
  return (
    <Box
      title={wrong?.message ?? ''}
      sx={{
        display: 'flex',
        alignItems: 'center',
        minWidth: 0,
        ...(wrong ? { outline: `1px solid ${tokens.coral}`, borderRadius: '3px' } : {}),
      }}
    >
      {children}
      {entry && (
        <IconButton
          aria-label={`Reset ${name} of ${title} to the base`}
          title="Back to the base"
          onClick={() => {
            document.edit(setVariantValue(document.getState().derived.program.tree, title, name, undefined));
          }}
          sx={{ width: 24, height: 24, flex: 'none', color: tokens.dim }}
        >
          <CloseIcon />
        </IconButton>
      )}
    </Box>
  );
}
