/** The unit of so many laps: both are read alike. */
export const lapUnit = (laps: number | string): 'lap' | 'laps' => (Math.abs(Number(laps)) === 1 ? 'lap' : 'laps');

/** A number with its unit, laps: `1 lap`, `2 laps`. */
export const lapsText = (laps: number | string): string => `${String(laps)} ${lapUnit(laps)}`;

/**
 * Wake that fixes, edits and tools write by themselves. Operations are named here and in their records, and nowhere
 * else outside tests; a test compiles every phrase.
 */
export const PHRASES = {
  invert: 'invert()',
  clampToUnit: 'clamp(0, 1)',
  thereAndBack: 'wave(1 lap, shape: triangle)',
  /** Values from `low..high` spread over 0..1. */
  levels: (low: string, high: string): string => `remap(${low}, ${high}, 0, 1) |> clamp(0, 1)`,
  /** A cross-fade over the loop's end, so many seconds long. */
  crossFade: (seconds: string): string => `weave(${seconds}s)`,
  /** Coordinates that nothing moves yet. */
  square: 'uv |> tile(1)',
  /** An image, read where coordinates say. */
  read: (at: string, image: string): string => `${at} |> sample(${image})`,
  /** Steps of a chain that place a picture, each with its numbers as written. */
  tiled: (across: string, down: string): string => `tile(${across}, ${down})`,
  turned: (degrees: string): string => `turn(${degrees}deg, pivot: (0, 0))`,
  spun: (laps: string, u: string, v: string): string => `spin(${lapsText(laps)}, pivot: (${u}, ${v}))`,
  offset: (right: string, up: string): string => `offset(${right}, ${up})`,
  panned: (right: string, up: string): string => `pan(right: ${lapsText(right)}, up: ${lapsText(up)})`,
  whole: (value: string): string => `floor(${value})`,
  within: (value: string): string => `fract(${value})`,
  remainder: (value: string, by: string): string => `mod(${value}, ${by})`,
  mixed: (a: string, b: string, share: string): string => `mix(${a}, ${b}, ${share})`,
  /** Something that moves, where nothing is yet. */
  cloud: '(uv |> fbm(cells: 4, evolve: 1 lap))',
} as const;

/** Reads back what `levels` writes, at the end of a text: its two numbers, as written. */
export const LEVELS = /remap\(\s*([-\d.]+)\s*,\s*([-\d.]+)\s*,\s*0\s*,\s*1\s*\)\s*\|>\s*clamp\(\s*0\s*,\s*1\s*\)$/;
