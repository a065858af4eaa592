import { userValue } from '../backends/dial-units.ts';
import type { Dial, Loop, Program } from '../check/program.ts';
import { hexOfColor } from '../ops/value-type.ts';

/** A value in the units its dial is written in: laps, per second, seconds, degrees; a colour as hex. */
function inUnits(dial: Dial, value: readonly number[], loop: Loop): number | number[] | string {
  if (dial.type === 'color') return hexOfColor(value);
  const user = userValue(dial, value, loop);
  return dial.type === 'vec2' ? user : (user[0] ?? 0);
}

const bound = (dial: Dial, value: number | undefined, loop: Loop): unknown =>
  value === undefined ? undefined : dial.type === 'vec2' ? value : inUnits(dial, [value], loop);

/** The dials of a material as a report or manifest lists them. */
export function dialsInUnits({ dials, loop }: Program): object[] {
  return dials.map((d) => ({
    name: d.name,
    type: d.type,
    default: inUnits(d, d.value, loop),
    min: bound(d, d.low, loop),
    max: bound(d, d.high, loop),
    step: bound(d, d.step, loop),
    help: d.help,
  }));
}
