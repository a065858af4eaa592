import {
  literalOfArgument,
  makeConstant,
  makeDial,
  removeArgument,
  setArgument,
  type Argument,
  type CallExpression,
  type OperationParameter,
} from '@estela/core';
import { Box, Button, IconButton, MenuItem, Select, Tooltip, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { CloseIcon } from '../../ui/icons.tsx';
import { tokens } from '../../ui/tokens.ts';
import type { TextHost } from '../values/text-host.ts';
import { ValueControl } from '../values/ValueControl.tsx';
import { defaultText, type LineStatement } from './calls.ts';
import { ImageSelect } from './ImageSelect.tsx';
import { TextField } from './TextField.tsx';

const UNITS: Record<string, string> = {
  rate: 'rate',
  angle: 'angle',
  time: 'time',
  vec2: 'pair',
  color: 'colour',
  number: '',
  vector: '',
};

const rangeText = ({ range, accepts, default: start }: OperationParameter): string => {
  const parts = [...new Set(accepts.map((a) => UNITS[a] ?? a).filter((a) => a !== ''))];
  const per = accepts[0] === 'angle' ? 360 : 1;
  const words = range
    ? `${String(range[0] * per)} to ${String(range[1] * per)}${per === 360 ? 'deg' : accepts[0] === 'rate' ? ' laps' : ''}`
    : '';
  return [parts.join(' or '), words, start === undefined ? '' : 'optional'].filter((p) => p !== '').join(', ');
};

/**
 * One argument: its name, the control its value asks for, its text, and what can be done with it. `dials` allows making
 * dials.
 */
export function ArgumentRow({
  host,
  statement,
  call,
  parameter,
  argument,
  dials,
}: {
  readonly host: TextHost;
  readonly statement: LineStatement;
  readonly call: CallExpression;
  readonly parameter: OperationParameter;
  readonly argument: Argument | undefined;
  readonly dials: boolean;
}): ReactElement {
  const program = host.program();
  const { text } = program.tree;
  const label = `${parameter.name} of ${call.callee.name}`;
  const value = argument?.value;
  const written = value ? text.slice(value.from, value.to) : '';
  const literal = value && literalOfArgument(program, statement, parameter, value);
  const use = value?.kind === 'name' && program.dials.some((d) => d.name === value.name) ? value : undefined;
  const ramps = parameter.accepts.includes('ramp') ? program.ramps : undefined;
  const write = (insert: string): void => {
    host.edit(setArgument(text, call, argument, parameter.name, insert));
  };
  const dial = literal && dials ? makeDial(program, literal) : undefined;
  const removal =
    argument && (parameter.default !== undefined || parameter.optional) ? removeArgument(call, argument) : [];
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', columnGap: 1, minHeight: 30, px: 1.5 }}>
      <Tooltip title={`${parameter.help} ${rangeText(parameter)}`} placement="left">
        <Typography noWrap sx={{ width: 68, flex: 'none', color: argument ? 'text.primary' : 'text.secondary' }}>
          {parameter.name}
        </Typography>
      </Tooltip>
      <Box sx={{ width: 176, flex: 'none', display: 'flex' }}>
        {parameter.accepts.includes('image') ? (
          <ImageSelect
            host={host}
            label={label}
            value={written}
            sources={dials}
            edits={(now, name) => setArgument(now.tree.text, call, argument, parameter.name, name)}
          />
        ) : ramps ? (
          <Select
            size="small"
            value={ramps.some((n) => n.name === written) ? written : ''}
            slotProps={{ input: { 'aria-label': label } }}
            onChange={(event) => {
              write(event.target.value);
            }}
            sx={{ minWidth: 120, height: 28 }}
          >
            {ramps.map((n) => (
              <MenuItem key={n.name} value={n.name}>
                {n.name}
              </MenuItem>
            ))}
          </Select>
        ) : literal ? (
          <ValueControl literal={literal} name={label} host={host} />
        ) : use ? (
          <Typography sx={{ color: 'text.secondary', px: 0.5 }}>the dial {use.name}</Typography>
        ) : argument ? (
          <Typography sx={{ color: 'text.secondary', px: 0.5 }}>computed</Typography>
        ) : parameter.options ? (
          <Select
            size="small"
            displayEmpty
            value=""
            renderValue={() => defaultText(parameter)}
            slotProps={{ input: { 'aria-label': label } }}
            onChange={(event) => {
              write(event.target.value);
            }}
            sx={{ minWidth: 120, height: 28, color: 'text.secondary' }}
          >
            {parameter.options.map((o) => (
              <MenuItem key={o} value={o}>
                {o}
              </MenuItem>
            ))}
          </Select>
        ) : (
          <Button
            sx={{ color: 'text.secondary' }}
            aria-label={`Set ${label}`}
            onClick={() => {
              write(defaultText(parameter) || (parameter.accepts[0] === 'rate' ? '1 lap' : '1'));
            }}
          >
            {defaultText(parameter) === '' ? 'not set' : `${defaultText(parameter)} (default)`}
          </Button>
        )}
      </Box>
      <TextField
        label={`${label} as text`}
        value={written}
        placeholder={defaultText(parameter)}
        write={write}
        width={112}
      />
      <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center' }}>
        {dial && 'edits' in dial && (
          <Button
            aria-label={`Make a dial of ${label}`}
            onClick={() => {
              host.edit(dial.edits);
            }}
          >
            Make a dial
          </Button>
        )}
        {use && dials && (
          <Button
            aria-label={`Make ${label} a constant`}
            onClick={() => {
              host.edit(makeConstant(host.program(), use));
            }}
          >
            Make constant
          </Button>
        )}
        {removal.length > 0 && (
          <IconButton
            aria-label={`Leave out ${label}`}
            title={parameter.default === undefined ? 'Leave out' : `Back to ${defaultText(parameter)}`}
            onClick={() => {
              host.edit(removal);
            }}
            sx={{ color: tokens.dim }}
          >
            <CloseIcon />
          </IconButton>
        )}
      </Box>
    </Box>
  );
}
