import { hexOfColor, literalAt, literalWith, type LiteralAt, type Loop } from '@estela/core';
import { Box, MenuItem, Select, Switch } from '@mui/material';
import type { ReactElement } from 'react';
import { AngleControl } from '../dials/AngleControl.tsx';
import { ColorControl } from '../dials/ColorControl.tsx';
import type { DialControl, Held } from '../dials/dial-control.ts';
import { SliderControl } from '../dials/SliderControl.tsx';
import { PadControl } from './PadControl.tsx';
import type { TextHost } from './text-host.ts';

/** The loop matters to no value that is held in the unit it is written in. */
const UNIT_LOOP: Loop = { seconds: 1, fps: 1, frames: 1 };

/** A literal as controls hold it: numbers in the unit written, angles in turns. */
function heldOf({ kind, value, suffix, low, high, step }: LiteralAt, name: string): Held {
  const per = kind === 'angle' && suffix.trim() === 'deg' ? 1 / 360 : 1;
  const type =
    kind === 'angle' || kind === 'color' || kind === 'vec2'
      ? kind
      : /laps?$|^\/s$/.test(suffix.trim())
        ? 'laps'
        : 'number';
  const bounds =
    kind === 'angle' || low === undefined || high === undefined
      ? {}
      : { low: Math.min(low, ...value), high: Math.max(high, ...value) };
  return { name, type, value: value.map((v) => v * per), ...bounds, step: step * per };
}

/**
 * The control that a written value asks for: a slider, a round dial, a pad, a picker, a menu. It writes the literal
 * anew where it stands.
 */
export function ValueControl({
  literal,
  name,
  host,
  large,
}: {
  readonly literal: LiteralAt;
  readonly name: string;
  readonly host: TextHost;
  readonly large?: boolean;
}): ReactElement {
  const now = (): LiteralAt => literalAt(host.program(), literal.from) ?? literal;
  const put = (insert: string, drag: boolean): void => {
    const { from, to } = now();
    (drag ? host.drag : host.edit)([{ from, to, insert }]);
  };
  const written = host.program().tree.text.slice(literal.from, literal.to);
  if (literal.kind === 'keyword')
    return (
      <Select
        size="small"
        value={literal.words.includes(written) ? written : ''}
        slotProps={{ input: { 'aria-label': name } }}
        onChange={(event) => {
          put(event.target.value, false);
        }}
        sx={{ minWidth: 120, height: 28 }}
      >
        {literal.words.map((word) => (
          <MenuItem key={word} value={word}>
            {word}
          </MenuItem>
        ))}
      </Select>
    );
  if (literal.kind === 'on-off')
    return (
      <Switch
        size="small"
        checked={written === 'on'}
        slotProps={{ input: { 'aria-label': name } }}
        onChange={(_, on) => {
          put(on ? 'on' : 'off', false);
        }}
      />
    );
  const dial = heldOf(literal, name);
  const control: DialControl = {
    dial,
    loop: UNIT_LOOP,
    set(value, drag) {
      const at = now();
      const per = at.kind === 'angle' && at.suffix.trim() === 'deg' ? 360 : 1;
      put(
        at.kind === 'color'
          ? hexOfColor(value)
          : literalWith(
              { ...at, decimals: 0 },
              value.map((v) => v * per),
            ),
        drag,
      );
    },
    done: host.done,
  };
  switch (literal.kind) {
    case 'color':
      return <ColorControl {...control} {...(large ? { large } : {})} />;
    case 'angle':
      return <AngleControl {...control} {...(large ? { size: 112 } : {})} />;
    case 'vec2':
      return large ? (
        <PadControl {...control} />
      ) : (
        <Box sx={{ display: 'flex' }}>
          <SliderControl {...control} part={0} />
          <SliderControl {...control} part={1} />
        </Box>
      );
    default:
      return <SliderControl {...control} />;
  }
}
