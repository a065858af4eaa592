import { Slider } from '@mui/material';
import type { ReactElement } from 'react';
import { shownPer, type DialControl, type Held } from './dial-control.ts';

/** Where a dial without a range can be dragged: to twice its value, or 0 to 1. */
function rangeOf(dial: Held, value: number): [number, number] {
  if (dial.low !== undefined && dial.high !== undefined) return [dial.low, dial.high];
  const reach = Math.max(Math.abs(value) * 2, 1);
  return [value < 0 ? -reach : 0, reach];
}

/** A slider over a dial's range, in the units it is shown in. Moving dials are amber. */
export function SliderControl({
  dial,
  loop,
  set,
  done,
  part = 0,
}: DialControl & { readonly part?: number }): ReactElement {
  const per = shownPer(dial, loop);
  const value = dial.value[part] ?? 0;
  const [low, high] = rangeOf(dial, value).map((v) => v * per) as [number, number];
  // Without a step of its own a dial moves in a thousandth of its range, rounded to a power of ten.
  const step = dial.step === undefined ? 10 ** Math.floor(Math.log10((high - low) / 500)) : dial.step * per;
  const whole = dial.type === 'laps' && dial.step === 1 && high - low <= 24;
  const moved = (next: number): number[] =>
    dial.value.map((v, i) => (i === part ? Number(next.toPrecision(12)) / per : v));
  return (
    <Slider
      aria-label={dial.value.length > 1 ? `${dial.name} ${'xy'[part] ?? ''}` : dial.name}
      color={dial.type === 'laps' || dial.type === 'rate' ? 'secondary' : 'primary'}
      min={low}
      max={high}
      step={step}
      marks={whole}
      track={low < 0 && high > 0 ? false : 'normal'}
      value={value * per}
      onChange={(_, next) => {
        set(moved(next), true);
      }}
      onChangeCommitted={done}
      sx={{
        width: dial.value.length > 1 ? 'calc((var(--control, 160px) - 16px) / 2)' : 'var(--control, 160px)',
        flex: 'none',
        mx: 0.5,
      }}
    />
  );
}
