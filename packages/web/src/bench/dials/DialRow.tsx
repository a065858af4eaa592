import { hexOfColor, literalText, setDefault, setRange, setVariantValue, type Dial, type Program } from '@estela/core';
import { Box, Typography } from '@mui/material';
import { memo, type ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { AngleControl } from './AngleControl.tsx';
import type { SetValue } from './dial-control.ts';
import { ColorControl, ColorField } from './ColorControl.tsx';
import { NameCell } from './NameCell.tsx';
import { Row } from './Row.tsx';
import { boundText, settingTexts } from './settings.ts';
import { SliderControl } from './SliderControl.tsx';
import { ValueField } from './ValueField.tsx';
import { VariantCell } from './VariantCell.tsx';

/**
 * What a dial's row shows; where things stand in the text moves with every key that is typed, and does not matter here.
 */
const looksOf = (
  { name, type, value, low, high, step, help }: Dial,
  { variants, loop, diagnostics, dials, switches }: Program,
): string =>
  JSON.stringify([
    [name, type, value, low, high, step, help, loop],
    variants.map((v) => [
      v.name,
      v.values.get(name),
      diagnostics.filter((d) => d.from >= v.span.from && d.to <= v.span.to).map((d) => d.message),
    ]),
    dials.length + switches.length,
  ]);

/**
 * One dial: the control its type asks for, its value as text, its range, and its values in the variants. Drawn anew
 * only when one of them changes.
 */
export const DialRow = memo(
  DialControls,
  (before, after) =>
    before.idle === after.idle && looksOf(before.dial, before.program) === looksOf(after.dial, after.program),
);

function DialControls({
  dial,
  program,
  idle,
}: {
  readonly dial: Dial;
  readonly program: Program;
  /** It has no effect as the switches stand. */
  readonly idle: boolean;
}): ReactElement {
  const { document } = useSession();
  const { loop } = program;
  // The tree of now: many moves may come between two drawings of this row.
  const now = (): Program['tree'] => document.getState().derived.program.tree;
  const write = (literal: string, group?: string): void => {
    document.edit(setDefault(now(), dial.name, literal), group);
  };
  const set: SetValue = (value, drag) => {
    if (drag && !document.getState().dragging) document.setDragging(true);
    write(literalText(dial.type, value, loop, hexOfColor), drag ? `drag ${dial.name}` : undefined);
  };
  const done = (): void => {
    if (document.getState().dragging) document.setDragging(false);
  };
  const control = { dial, loop, set, done };
  const base = literalText(dial.type, dial.value, loop, hexOfColor);
  const range = [dial.low, dial.high].map((v) => (v === undefined ? undefined : boundText(dial, v, program)));
  const [low, high] = range;
  const writeRange =
    (end: 0 | 1) =>
    (literal: string): void => {
      const other =
        (end === 0 ? high : low) ??
        (end === 0
          ? boundText(dial, Math.max(...dial.value, 1), program)
          : boundText(dial, Math.min(...dial.value, 0), program));
      document.edit(setRange(now(), dial.name, end === 0 ? [literal, other] : [other, literal]));
    };
  // An end of the range is a number of the dial's kind, and has no range itself.
  const unbounded: Dial = {
    name: dial.name,
    type: dial.type === 'vec2' ? 'number' : dial.type,
    value: dial.value,
    help: dial.help,
    span: dial.span,
    nameSpan: dial.nameSpan,
    valueSpan: dial.valueSpan,
  };
  return (
    <Row variants={program.variants.length}>
      <NameCell name={dial.name} help={dial.help} idle={idle} />
      <Box sx={{ display: 'flex', '--control': '112px' }}>
        {dial.type === 'color' ? (
          <ColorControl {...control} />
        ) : dial.type === 'angle' ? (
          <AngleControl {...control} />
        ) : dial.type === 'vec2' ? (
          <>
            <SliderControl {...control} part={0} />
            <SliderControl {...control} part={1} />
          </>
        ) : (
          <SliderControl {...control} />
        )}
      </Box>
      <ValueField dial={dial} program={program} value={base} label={`${dial.name} value`} write={write} width="100%" />
      <Box sx={{ display: 'flex', alignItems: 'center', minWidth: 0 }}>
        {dial.type !== 'color' && (
          <>
            <ValueField
              dial={unbounded}
              program={program}
              value={low ?? ''}
              label={`Least ${dial.name}`}
              write={writeRange(0)}
              width={51}
              inherited
            />
            <Box component="span" aria-hidden="true" sx={{ color: tokens.dim }}>
              ..
            </Box>
            <ValueField
              dial={unbounded}
              program={program}
              value={high ?? ''}
              label={`Greatest ${dial.name}`}
              write={writeRange(1)}
              width={51}
              inherited
            />
          </>
        )}
      </Box>
      {program.variants.map((v) => {
        const value = settingTexts(program, v.name).get(dial.name) ?? base;
        return (
          <VariantCell key={v.name} program={program} title={v.name} name={dial.name}>
            {dial.type === 'color' && <ColorField hex={value} width={14} />}
            <ValueField
              dial={dial}
              program={program}
              value={value}
              label={`${dial.name} of ${v.name}`}
              inherited={value === base}
              width="100%"
              write={(literal) => {
                document.edit(setVariantValue(now(), v.name, dial.name, literal));
              }}
            />
          </VariantCell>
        );
      })}
      <Typography noWrap sx={{ color: 'text.secondary' }}>
        {dial.help}
      </Typography>
    </Row>
  );
}
