import type { Operation } from '@estela/core';
import { Box, Typography } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { PlayingPicture } from '../../viewport/PlayingPicture.tsx';
import { examples, NO_SOURCES } from '../palette/examples.ts';
import { createDocumentStore } from '../document-store.ts';
import { hostOf } from '../values/text-host.ts';
import { CallRows } from './CallRows.tsx';
import { callsOf } from './calls.ts';

const SIZE = 132;

/** The operation's own example, playing, with sliders of its own; nothing here touches the material. */
export function LiveExample({ operation }: { readonly operation: Operation }): ReactElement {
  const document = useMemo(() => createDocumentStore(operation.example), [operation]);
  const text = useStore(document, (s) => s.look.program.tree.text);
  const { program } = useStore(document, (s) => s.derived);
  const statement = program.tree.statements.findLast((s) => s.kind === 'out');
  const of = statement?.kind === 'out' ? callsOf(statement.value).find((c) => c.operation === operation) : undefined;
  return (
    <Box
      sx={{ mx: 1.5, mb: 1, p: 1, bgcolor: 'background.paper', border: 1, borderColor: 'divider', borderRadius: '3px' }}
      role="group"
      aria-label={`Example of ${operation.name}`}
    >
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        <PlayingPicture
          player={examples}
          text={text}
          supply={NO_SOURCES}
          size={SIZE}
          label={`${operation.name} playing`}
        />
        <Box>
          <Typography>{operation.help}</Typography>
          <Typography sx={{ mt: 1, color: 'text.secondary' }}>The sliders below change this example only.</Typography>
        </Box>
      </Box>
      {of && statement?.kind === 'out' && (
        <CallRows host={hostOf(document)} statement={statement} of={of} dials={false} />
      )}
    </Box>
  );
}
