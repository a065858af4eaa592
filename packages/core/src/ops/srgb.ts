/** sRGB transfer function, 0..1 to linear 0..1 (IEC 61966-2-1). */
export const fromSrgb = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
/** Linear 0..1 to sRGB 0..1 (IEC 61966-2-1). */
export const toSrgb = (c: number): number => (c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055);

/** Steps of linear light: each so short that at most one value lies within at which the byte changes. */
export const SRGB_STEPS = 16384;
interface SrgbSteps {
  /** Light from which on a byte is the next one; the last is never reached. */
  readonly changes: Float64Array;
  /** The byte at the beginning of each step. */
  readonly bytes: Uint8Array;
}
let steps: SrgbSteps | undefined;
/** The steps, made when they are first asked for. */
export function srgbSteps(): SrgbSteps {
  if (steps) return steps;
  const changes = Float64Array.from({ length: 256 }, (_, byte) => (byte === 255 ? 2 : fromSrgb((byte + 0.5) / 255)));
  const bytes = new Uint8Array(SRGB_STEPS + 1);
  for (let step = 0, byte = 0; step <= SRGB_STEPS; step++) {
    while (step / SRGB_STEPS >= changes[byte]!) byte++;
    bytes[step] = byte;
  }
  return (steps = { changes, bytes });
}

/** The byte of sRGB of linear light, rounded: by the same steps, as a power for each of many pixels takes long. */
export function srgbByte(light: number): number {
  const { changes, bytes } = srgbSteps();
  const v = light > 0 ? (light < 1 ? light : 1) : 0;
  const byte = bytes[Math.floor(v * SRGB_STEPS)]!;
  return v >= changes[byte]! ? byte + 1 : byte;
}
