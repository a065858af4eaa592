import type { ImageType } from './header.ts';
import { flaws } from './wording.ts';

/**
 * A flaw that a kind's decoder passes over silently, filling what is missing with grey; undefined where there is none.
 */
export function flawsOf(type: ImageType, bytes: Uint8Array): string | undefined {
  // A JPEG ends with the marker FFD9; some writers put bytes of their own behind it.
  if (type === 'jpg') return lastIndexOfPair(bytes, 0xff, 0xd9) > 0 ? undefined : flaws.cutOff;
  // A RIFF file says how long it is.
  if (type === 'webp')
    return new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true) + 8 <= bytes.length
      ? undefined
      : flaws.cutOff;
  return undefined;
}

function lastIndexOfPair(bytes: Uint8Array, a: number, b: number): number {
  for (let i = bytes.length - 2; i >= 0; i--) if (bytes[i] === a && bytes[i + 1] === b) return i;
  return -1;
}
