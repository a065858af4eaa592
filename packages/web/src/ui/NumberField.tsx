import { TextField } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { faces } from './tokens.ts';

/** As short as says it to a thousandth. */
const words = (value: number): string => String(Math.round(value * 1000) / 1000);

/**
 * A number that is typed, or stepped by the up and down keys; what is no number within its bounds is marked and not
 * taken.
 */
export function NumberField({
  value,
  label,
  step = 0.1,
  min = -Infinity,
  max = Infinity,
  width = 64,
  set,
}: {
  readonly value: number;
  readonly label: string;
  readonly step?: number;
  readonly min?: number;
  readonly max?: number;
  readonly width?: number;
  readonly set: (value: number) => void;
}): ReactElement {
  const [typed, setTyped] = useState<string>();
  const number = Number((typed ?? '').replace(',', '.'));
  const wrong =
    typed !== undefined && (typed.trim() === '' || !Number.isFinite(number) || number < min || number > max);
  const take = (): void => {
    if (typed !== undefined && !wrong && number !== value) set(number);
    setTyped(undefined);
  };
  return (
    <TextField
      value={typed ?? words(value)}
      error={wrong}
      onChange={(event) => {
        setTyped(event.target.value);
      }}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take();
        else if (event.key === 'Escape') setTyped(undefined);
        else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
          event.preventDefault();
          const by = step * (event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1);
          setTyped(undefined);
          set(
            Math.min(
              Math.max(Math.round(((wrong || typed === undefined ? value : number) + by) * 1e6) / 1e6, min),
              max,
            ),
          );
        }
      }}
      slotProps={{ htmlInput: { 'aria-label': label, inputMode: 'decimal', title: label } }}
      sx={{ width, '& input': { fontFamily: faces.figures, fontSize: 12.5, px: 0.75 } }}
    />
  );
}
