import { hexOfColor, literalText, readDialText, type Dial, type Program } from '@estela/core';
import type { ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';
import { TextField } from '../card/TextField.tsx';
import { boundText } from './settings.ts';

/** Why a text cannot stand for a dial's value, if it cannot. */
export function complaintOf(dial: Dial, typed: string, program: Program): string | undefined {
  const read = readDialText(dial, typed, program.loop);
  if ('complaint' in read) return read.complaint;
  const { low, high } = dial;
  const slack = 1e-9;
  if (low === undefined || high === undefined || read.value.every((v) => v >= low - slack && v <= high + slack))
    return undefined;
  return `'${dial.name}' goes from ${boundText(dial, low, program)} to ${boundText(dial, high, program)}.`;
}

/** A value of a dial as it stands in the text. One that a variant leaves to the base is dim. */
export function ValueField({
  dial,
  program,
  value,
  label,
  write,
  width,
  inherited = false,
}: {
  readonly dial: Dial;
  readonly program: Program;
  readonly value: string;
  readonly label: string;
  readonly write: (literal: string) => void;
  readonly width: number | string;
  readonly inherited?: boolean;
}): ReactElement {
  return (
    <TextField
      label={label}
      value={value}
      width={width}
      ink={inherited ? tokens.dim : undefined}
      complain={(typed) => complaintOf(dial, typed, program)}
      write={(typed) => {
        const read = readDialText(dial, typed, program.loop);
        if ('value' in read) write(literalText(dial.type, read.value, program.loop, hexOfColor));
      }}
    />
  );
}
