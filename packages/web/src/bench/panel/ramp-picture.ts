import { rampPixels, type RampEasing, type WrittenStop } from '@estela/core';

const made = new Map<string, string>();

/** A ramp as the address of a picture one pixel high; the newest few hundred are kept. */
export function rampPicture(stops: readonly WrittenStop[], easing: RampEasing, width: number): string {
  const key = `${String(width)} ${easing} ${stops.map((s) => `${String(s.at)} ${s.hex}`).join(' ')}`;
  const known = made.get(key);
  if (known !== undefined) return known;
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [width, 1];
  canvas
    .getContext('2d')
    ?.putImageData(new ImageData(Uint8ClampedArray.from(rampPixels(stops, easing, width).data), width, 1), 0, 0);
  const address = canvas.toDataURL();
  made.set(key, address);
  if (made.size > 300) made.delete(made.keys().next().value ?? '');
  return address;
}
