import { lineAndColumn, type Diagnostic } from '@estela/core';
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { applyFix } from './apply-fix.ts';
import { useMissing } from './use-findings.ts';

const INKS = { error: tokens.coral, warning: tokens.bone, note: tokens.dim } as const;

/**
 * What was found in the text: where, what, and what would fix it. Takes no room while there is nothing, or all
 * findings are shown.
 */
export function Findings(): ReactElement | null {
  const { debounced, panel } = useSession();
  const text = useStore(debounced, (s) => s.text);
  const derived = useStore(debounced, (s) => s.derived);
  const all = useStore(panel, (s) => s.open.kind === 'checks');
  const missing = useMissing();
  const list = [...derived.diagnostics, ...missing].sort(
    (a, b) => Number(b.severity === 'error') - Number(a.severity === 'error') || a.from - b.from,
  );
  if (list.length === 0 || all) return null;
  return (
    <Box
      component="section"
      aria-label="Found in the text"
      sx={{ flex: 'none', maxHeight: 108, overflow: 'auto', borderTop: 1, borderColor: 'divider' }}
    >
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {list.map((d) => (
          <Finding
            key={`${d.code}:${String(d.from)}:${String(d.to)}`}
            diagnostic={d}
            line={lineAndColumn(text, d.from).line}
          />
        ))}
      </Box>
    </Box>
  );
}

function Finding({ diagnostic, line }: { readonly diagnostic: Diagnostic; readonly line: number }): ReactElement {
  const session = useSession();
  return (
    <Box
      component="li"
      sx={{
        display: 'flex',
        alignItems: 'center',
        flexWrap: 'wrap',
        columnGap: 1,
        px: 1.5,
        py: 0.5,
        '& + li': { borderTop: 1, borderColor: 'divider' },
      }}
    >
      <Box component="span" sx={{ color: INKS[diagnostic.severity], whiteSpace: 'nowrap' }}>
        {diagnostic.severity}, line {line}
      </Box>
      <Typography sx={{ flex: '1 1 260px' }}>{diagnostic.message}</Typography>
      {diagnostic.fixes.map((fix) => (
        <Button
          key={fix.title}
          variant="outlined"
          onClick={() => {
            applyFix(session, fix.edits);
          }}
        >
          {fix.title}
        </Button>
      ))}
    </Box>
  );
}
