import { exceeded } from '@estela/core';
import { Box, Button, IconButton, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { RedoIcon, UndoIcon } from '../../ui/icons.tsx';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';

/** About the time that the graphics card takes. */
const TIMED = {
  told: 'The milliseconds are measured by the graphics card for 1920 x 1080 pixels.',
  soon: 'Measuring the time on the graphics card.',
  never: 'No time: there is no graphics card, or the browser does not report its time.',
} as const;

/** Over the Score: how many steps there are, what a pixel costs, undo, redo and inserting. */
export function ScoreHead(): ReactElement {
  const { document, cover, debounced, checks, stage } = useSession();
  const cost = useStore(checks, (s) => s.report?.cost);
  const over = useStore(checks, (s) => s.report !== undefined && exceeded(s.report.cost, s.budget).length > 0);
  const timed = useStore(stage, (s) => s.timed);
  const count = useStore(debounced, (s) => s.derived.program.steps.length);
  const canUndo = useStore(debounced, (s) => s.history.past.length > 0);
  const canRedo = useStore(debounced, (s) => s.history.future.length > 0);
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        height: 36,
        pl: 1.5,
        pr: 0.5,
        flex: 'none',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Typography variant="h2" data-mark="score" sx={{ fontSize: 13 }}>
        Score
      </Typography>
      <Typography noWrap sx={{ color: 'text.secondary', mr: 'auto', ml: 1 }}>
        {count === 1 ? '1 step' : `${String(count)} steps`}
        {cost && (
          <Box
            component="span"
            title={`Cost per pixel. ${TIMED[timed === null ? 'never' : timed === undefined ? 'soon' : 'told']}`}
            sx={{ color: over ? tokens.coral : 'inherit' }}
          >
            {`, ${String(cost.operations)} operations, ${String(cost.reads)} ${cost.reads === 1 ? 'read' : 'reads'}`}
            {typeof timed === 'number' && `, ${timed < 9.95 ? timed.toFixed(2) : timed.toFixed(0)} ms`}
          </Box>
        )}
      </Typography>
      <IconButton aria-label="Undo" title="Undo (Ctrl+Z)" disabled={!canUndo} onClick={() => document.undo()}>
        <UndoIcon />
      </IconButton>
      <IconButton aria-label="Redo" title="Redo (Ctrl+Shift+Z)" disabled={!canRedo} onClick={() => document.redo()}>
        <RedoIcon />
      </IconButton>
      <Button
        variant="outlined"
        title="Insert an operation or an output (Ctrl+K)"
        onClick={() => {
          cover.setState({ open: 'palette' });
        }}
      >
        + Insert
      </Button>
    </Box>
  );
}
