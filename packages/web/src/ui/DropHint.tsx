import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import { tokens } from './tokens.ts';

/** Says over a part of the view what letting go of files there does. */
export function DropHint({ words }: { readonly words: string }): ReactElement {
  return (
    <Box
      aria-hidden="true"
      sx={{
        position: 'absolute',
        inset: 8,
        border: `2px dashed ${tokens.bone}`,
        borderRadius: '3px',
        bgcolor: `${tokens.pit}b3`,
        display: 'grid',
        placeItems: 'center',
        pointerEvents: 'none',
        fontSize: 15,
      }}
    >
      {words}
    </Box>
  );
}
