import { WasmEvaluator } from '../backends/wasm/run.ts';
import { Builder } from '../ir/builder.ts';
import { mostOf, type PixelImage } from '../image/pixels.ts';
import { rampAt } from '../ops/colour.ts';
import type { RampEasing, WrittenStop } from '../edits/ramp-edits.ts';
import { colorOfHex, hexOfColor } from '../ops/value-type.ts';
import { fromSrgb, toSrgb } from '../ops/srgb.ts';

/**
 * A ramp as an image one pixel high, sRGB with straight alpha: what the operation itself gives at the middle of each
 * pixel.
 */
export function rampPixels(stops: readonly WrittenStop[], easing: RampEasing, width: number): PixelImage {
  const b = new Builder();
  const ordered = [...stops].sort((a, b) => a.at - b.at).map(({ at, hex }) => ({ at, color: colorOfHex(hex) }));
  const evaluator = new WasmEvaluator([rampAt(b, { name: 'ramp', stops: ordered, easing }, b.x(b.input('uv')))]);
  evaluator.setFrame({ time: 0, dials: new Map() });
  const [linear] = evaluator.picture(width, 1);
  const coded = (value: number, i: number): number =>
    Math.round(Math.min(Math.max(i % 4 === 3 ? value : toSrgb(value), 0), 1) * 255);
  return { width, height: 1, data: Uint8Array.from(linear!, coded) };
}

/** Most stops a row of pixels is read as. */
export const READ_STOPS = 16;

/**
 * Stops of a linear ramp that gives a row of pixels back, its first row if it has more: ends first, then the pixel that
 * is farthest off, until none is off by more than a step of 8 bits and a half, or READ_STOPS are reached (Douglas and
 * Peucker 1973, over linear light).
 */
export function stopsOfPixels(image: PixelImage): WrittenStop[] {
  const { width, data } = image;
  const max = mostOf(image);
  const colors = Array.from({ length: width }, (_, x) =>
    [0, 1, 2, 3].map((c) => (c === 3 ? data[x * 4 + 3]! / max : fromSrgb(data[x * 4 + c]! / max))),
  );
  // A pixel stands for its middle; before the first and behind the last the ramp is even.
  const placeOf = (x: number): number => (x + 0.5) / width;
  if (width === 1) return [0, 1].map((at) => ({ at, hex: hexOfColor(colors[0]!) }));
  const kept = [0, width - 1];
  for (;;) {
    let farthest = { off: 1.5 / 255, at: -1 };
    for (let k = 0; k + 1 < kept.length; k++) {
      const [a, b] = [kept[k]!, kept[k + 1]!];
      for (let x = a + 1; x < b; x++) {
        const t = (x - a) / (b - a);
        const off = Math.max(
          ...[0, 1, 2, 3].map((c) => {
            const value = colors[a]![c]! + (colors[b]![c]! - colors[a]![c]!) * t;
            const wanted = colors[x]![c]!;
            return c === 3 ? Math.abs(value - wanted) : Math.abs(toSrgb(value) - toSrgb(wanted));
          }),
        );
        if (off > farthest.off) farthest = { off, at: x };
      }
    }
    if (farthest.at < 0 || kept.length >= READ_STOPS)
      return kept.map((x) => ({ at: placeOf(x), hex: hexOfColor(colors[x]!) }));
    kept.push(farthest.at);
    kept.sort((a, b) => a - b);
  }
}
