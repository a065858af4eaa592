import type { RgbaPicture } from '@estela/core';
import { decompressFrames, parseGIF } from 'gifuct-js';
import { flaws } from './wording.ts';

/**
 * A GIF's frames as whole pictures: each is drawn over what the frame before left behind, as its disposal says (GIF89a,
 * 23).
 */
export function decodeGif(
  bytes: Uint8Array,
  most = Infinity,
): { frames: RgbaPicture[]; count: number; delays: number[] } {
  // Without its trailer the file was cut off, and what was decoded may be half a picture.
  if (!bytes.subarray(-16).includes(0x3b)) throw new Error(flaws.cutOff);
  const gif = parseGIF(new Uint8Array(bytes).buffer);
  const parsed = decompressFrames(gif, true);
  const { width, height } = gif.lsd;
  if (parsed.length === 0) throw new Error(flaws.noFrames);
  let canvas = new Uint8Array(width * height * 4);
  const frames: RgbaPicture[] = [];
  for (const { dims, patch, disposalType } of parsed.slice(0, most)) {
    const before = canvas;
    canvas = canvas.slice();
    const each = (write: (to: number, from: number) => void): void => {
      for (let y = 0; y < dims.height; y++)
        for (let x = 0; x < dims.width; x++)
          if (dims.left + x < width && dims.top + y < height)
            write(((dims.top + y) * width + dims.left + x) * 4, (y * dims.width + x) * 4);
    };
    each((to, from) => {
      if (patch[from + 3] !== 0) canvas.set(patch.subarray(from, from + 4), to);
    });
    frames.push({ width, height, data: canvas });
    if (disposalType === 3) canvas = before;
    if (disposalType === 2) {
      canvas = canvas.slice();
      each((to) => canvas.fill(0, to, to + 4));
    }
  }
  return { frames, count: parsed.length, delays: parsed.map((f) => f.delay) };
}

/**
 * Columns of the sheet that holds so many frames: as near to a square as whole rows allow, left to right, then down.
 */
export function sheetColumns(count: number): number {
  for (let columns = Math.ceil(Math.sqrt(count)); columns <= count; columns++)
    if (count % columns === 0) return columns;
  return count;
}
