import { isName, namesOf, removeLines, renameName, setOff, setOffBelow, stagesOf, swapLines } from '@estela/core';
import { Box, Button, IconButton, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { CloseIcon, DownIcon, UpIcon } from '../../ui/icons.tsx';
import { faces } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { hostOf } from '../values/text-host.ts';
import { CallBlock } from './CallBlock.tsx';
import { callsOf, lineOfStep } from './calls.ts';
import { TextField } from './TextField.tsx';
import { stepRefOf } from '../../material/step-ref.ts';
import { useSelectedIndex } from '../selection.ts';

/**
 * The selected step: its operations in order, each argument as a control, and what can be done with the line. Everything
 * writes the text.
 */
export function StepCard(): ReactElement {
  const { document, selection, cover, debounced } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const index = useSelectedIndex();
  const step = index === undefined ? undefined : program.steps[index];
  const statement = lineOfStep(program, index);
  if (index === undefined || !step || !statement)
    return (
      <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
        Put the cursor in a step or click its picture to see its operations here.
      </Typography>
    );
  const host = hostOf(document, program);
  const { text } = program.tree;
  const { source, stages } = stagesOf(statement.value);
  const lines = program.tree.statements.filter((s) => s.kind === 'step' || s.kind === 'out');
  const position = lines.findIndex((s) => s === statement);
  const move = (by: 1 | -1): void => {
    const other = lines[position + by];
    if (!other) return;
    host.edit(by > 0 ? swapLines(text, statement, other) : swapLines(text, other, statement));
    selection.setState({ step: stepRefOf(document.getState().derived.program, index + by) });
  };
  const below = lines.slice(position).filter((s) => s.kind === 'step');
  const mutes = below.some((s) => !s.off);
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', minHeight: 34, pl: 1.5, pr: 0.5, gap: 0.5 }}>
        {step.kind === 'step' ? (
          <TextField
            label="Name of the step"
            value={step.name}
            width={112}
            complain={(name) =>
              !isName(name)
                ? 'Use lower-case letters, digits and _, starting with a letter.'
                : namesOf(program).has(name)
                  ? `'${name}' is taken.`
                  : undefined
            }
            write={(name) => {
              host.edit(renameName(program.tree, step.name, name));
            }}
          />
        ) : (
          <Typography sx={{ fontFamily: faces.figures, fontSize: 12.5 }}>out {step.name}</Typography>
        )}
        <Typography sx={{ color: 'text.secondary', mr: 'auto' }}>{step.type}</Typography>
        <Button
          aria-pressed={step.off}
          onClick={() => {
            host.edit(setOff(program.tree, step.span.from, !step.off));
          }}
        >
          {step.off ? 'Line on' : 'Line off'}
        </Button>
        {below.length > 0 && (
          <Button
            title="Outputs stay"
            onClick={() => {
              host.edit(setOffBelow(program.tree, step.span.from, mutes));
            }}
          >
            {mutes ? 'Off from here' : 'On from here'}
          </Button>
        )}
        <Button
          onClick={() => {
            cover.setState({ open: 'palette' });
          }}
        >
          Add a stage
        </Button>
        <IconButton
          aria-label="Move the line up"
          disabled={position <= 0}
          onClick={() => {
            move(-1);
          }}
        >
          <UpIcon />
        </IconButton>
        <IconButton
          aria-label="Move the line down"
          disabled={position === lines.length - 1}
          onClick={() => {
            move(1);
          }}
        >
          <DownIcon />
        </IconButton>
        <IconButton
          aria-label="Remove the line"
          onClick={() => {
            host.edit(removeLines(text, statement));
          }}
        >
          <CloseIcon />
        </IconButton>
      </Box>
      {source.kind !== 'call' && (
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 1,
            px: 1.5,
            minHeight: 30,
            borderTop: 1,
            borderColor: 'divider',
          }}
        >
          <Typography sx={{ width: 68, flex: 'none' }}>{stages.length > 0 ? 'flows in' : 'value'}</Typography>
          <TextField
            label={stages.length > 0 ? 'What flows in' : 'Value of the line'}
            value={text.slice(source.from, source.to)}
            width="100%"
            write={(value) => {
              host.edit([{ from: source.from, to: source.to, insert: value }]);
            }}
          />
        </Box>
      )}
      {callsOf(statement.value).map((of, i) => (
        <CallBlock
          key={`${String(i)} ${of.call.callee.name}`}
          host={host}
          statement={statement}
          of={of}
          stages={stages}
        />
      ))}
    </Box>
  );
}
