import type { BakeRecipe } from '@estela/core';
import type { Bake } from '../api/client.ts';

export const FORMAT_WORDS: Readonly<Record<BakeRecipe['format'], string>> = {
  sheet: 'Sheet',
  sequence: 'Sequence',
  apng: 'Animated PNG',
};

/** What a recipe asks for, in a line. */
export function recipeWords({
  format,
  size,
  frames,
  every,
  outputs,
  pack,
  bits,
  samples,
  variant,
}: BakeRecipe): string {
  const which =
    frames === 'all'
      ? 'all frames'
      : 'count' in frames
        ? `${String(frames.count)} frames`
        : 'list' in frames
          ? `${String(frames.list.length)} frames by number`
          : `frames ${String(frames[0])} to ${String(frames[1])}`;
  return [
    FORMAT_WORDS[format],
    `${String(size[0])} x ${String(size[1])}`,
    `${which}${every !== undefined && every > 1 ? `, one of every ${String(every)}` : ''}`,
    pack ?? (outputs ?? ['color']).join(', '),
    ...(bits === 16 ? ['16 bit'] : []),
    ...(samples !== undefined && samples > 1 ? [`${String(samples)} x ${String(samples)} samples`] : []),
    ...(variant === undefined ? [] : [`variant ${variant}`]),
  ].join(', ');
}

/** A length of bytes, to three figures. */
export function bytesWords(bytes: number): string {
  const [unit, by] = bytes >= 1024 ** 3 ? ['GB', 1024 ** 3] : bytes >= 1024 ** 2 ? ['MB', 1024 ** 2] : ['kB', 1024];
  const value = bytes / by;
  return `${value.toFixed(value >= 100 ? 0 : value >= 10 ? 1 : 2)} ${unit}`;
}

/** A time, to the second. */
export function secondsWords(seconds: number): string {
  const whole = Math.max(1, Math.ceil(seconds));
  if (whole < 60) return `${String(whole)} s`;
  const minutes = Math.floor(whole / 60);
  return minutes < 60
    ? `${String(minutes)} min ${String(whole % 60)} s`
    : `${String(Math.floor(minutes / 60))} h ${String(minutes % 60)} min`;
}

/** How far a bake is, in a line. */
export function progressWords({ state, done, total, rate, left, problem, waits }: Bake): string {
  const frames = `${String(Math.floor(done))} of ${String(total)} frames`;
  if (waits !== null) return `waits: ${waits}${done > 0 ? `, ${frames} done` : ''}`;
  switch (state) {
    case 'queued':
      return done > 0 ? `waits, ${frames} done` : 'waiting';
    case 'running':
      return rate === null || left === null
        ? frames
        : `${frames}, ${rate.toFixed(rate < 10 ? 1 : 0)} a second, ${secondsWords(left)} left`;
    case 'failed':
      return problem ?? 'It failed.';
    case 'cancelled':
      return `cancelled with ${frames} done`;
    case 'done':
      return `${String(total)} ${total === 1 ? 'frame' : 'frames'}`;
  }
}
