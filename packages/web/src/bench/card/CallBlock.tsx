import { removeStage, setStageOff, swapStages, type PipeExpression } from '@estela/core';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { CloseIcon, DownIcon, UpIcon } from '../../ui/icons.tsx';
import { faces } from '../../ui/tokens.ts';
import type { TextHost } from '../values/text-host.ts';
import { CallRows } from './CallRows.tsx';
import type { CallOfLine, LineStatement } from './calls.ts';
import { LiveExample } from './LiveExample.tsx';

/**
 * One operation of a line: what it does, its arguments as controls, its help; a stage can also be switched off, moved
 * and taken out.
 */
export function CallBlock({
  host,
  statement,
  of,
  stages,
}: {
  readonly host: TextHost;
  readonly statement: LineStatement;
  readonly of: CallOfLine;
  readonly stages: readonly PipeExpression[];
}): ReactElement {
  const [helped, setHelped] = useState(false);
  const { call, operation, stage, index } = of;
  const { text } = host.program().tree;
  const name = call.callee.name;
  const move = (by: 1 | -1): void => {
    const other = stages[index + by];
    if (stage && other) host.edit(by > 0 ? swapStages(text, stage, other) : swapStages(text, other, stage));
  };
  return (
    <Box component="section" aria-label={`Operation ${name}`} sx={{ borderTop: 1, borderColor: 'divider', pb: 0.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', minHeight: 32, pl: 1.5, pr: 0.5, gap: 1 }}>
        <Typography
          component="h3"
          sx={{
            fontFamily: faces.figures,
            fontSize: 12.5,
            ...(stage?.off ? { textDecoration: 'line-through', color: 'text.secondary' } : {}),
          }}
        >
          {name}
        </Typography>
        <Typography noWrap sx={{ flex: 1, minWidth: 0, color: 'text.secondary' }}>
          {operation?.summary ?? 'Your operation'}
        </Typography>
        {operation && (
          <Button
            aria-expanded={helped}
            aria-label={`Help on ${name}`}
            onClick={() => {
              setHelped(!helped);
            }}
          >
            Help
          </Button>
        )}
        {stage && (
          <>
            <Button
              aria-pressed={stage.off !== undefined}
              aria-label={`Switch ${stage.off ? 'on' : 'off'} the stage ${name}`}
              onClick={() => {
                host.edit(setStageOff(text, stage, stage.off === undefined));
              }}
            >
              {stage.off ? 'On' : 'Off'}
            </Button>
            <IconButton
              aria-label={`Move ${name} up`}
              disabled={index === 0}
              onClick={() => {
                move(-1);
              }}
            >
              <UpIcon />
            </IconButton>
            <IconButton
              aria-label={`Move ${name} down`}
              disabled={index === stages.length - 1}
              onClick={() => {
                move(1);
              }}
            >
              <DownIcon />
            </IconButton>
            <IconButton
              aria-label={`Remove ${name}`}
              onClick={() => {
                host.edit(removeStage(text, stage));
              }}
            >
              <CloseIcon />
            </IconButton>
          </>
        )}
      </Box>
      {helped && operation && <LiveExample operation={operation} />}
      <CallRows host={host} statement={statement} of={of} dials />
    </Box>
  );
}
