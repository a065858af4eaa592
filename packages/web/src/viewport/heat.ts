import { CLOSED_WITHIN } from '@estela/core';

/**
 * Ink of differences: see-through dark where there is none, coral from small ones on, light for the largest. Square
 * roots, so that small ones show.
 */
export function heatOf(values: Float32Array): Uint8ClampedArray<ArrayBuffer> {
  const result = new Uint8ClampedArray(values.length * 4);
  values.forEach((value, i) => {
    const heat = value > CLOSED_WITHIN ? Math.min(Math.sqrt(value), 1) : 0;
    const [a, b] = heat < 0.6 ? [DARK, CORAL] : [CORAL, LIGHT];
    const share = heat < 0.6 ? heat / 0.6 : (heat - 0.6) / 0.4;
    for (let c = 0; c < 3; c++) result[i * 4 + c] = a[c]! + (b[c]! - a[c]!) * share;
    result[i * 4 + 3] = heat === 0 ? 178 : 178 + 77 * Math.min(heat / 0.3, 1);
  });
  return result;
}

const DARK = [0x13, 0x13, 0x13] as const;
const CORAL = [0xff, 0x6f, 0x61] as const;
const LIGHT = [0xec, 0xe8, 0xdf] as const;

/** Largest differences along the upright edges and the level ones of a square of values. */
export function edgeDifferences(values: Float32Array, size: number): readonly [upright: number, level: number] {
  let [upright, level] = [0, 0];
  for (let i = 0; i < size; i++) {
    upright = Math.max(upright, values[i * size]!, values[i * size + size - 1]!);
    level = Math.max(level, values[i]!, values[(size - 1) * size + i]!);
  }
  return [upright, level];
}
