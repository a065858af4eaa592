import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import { refOf } from './supply.ts';

/** Small squares under what can be seen through. */
export const CLEAR_GROUND = `repeating-conic-gradient(${tokens.row} 0 25%, ${tokens.raise} 0 50%) 0 0 / 16px 16px`;

/** Side of the picture that is kept of a source, in pixels. */
const KEPT = 352;

/** Pictures that were made once, by content; the newest few hundred. */
const made = new Map<string, ImageBitmap>();

function fit(canvas: HTMLCanvasElement, bitmap: ImageBitmap): void {
  const scale = Math.min(canvas.width / bitmap.width, canvas.height / bitmap.height);
  const [width, height] = [Math.max(1, bitmap.width * scale), Math.max(1, bitmap.height * scale)];
  const context = canvas.getContext('2d');
  if (!context) return;
  context.clearRect(0, 0, canvas.width, canvas.height);
  context.imageSmoothingEnabled = scale < 2;
  context.drawImage(bitmap, (canvas.width - width) / 2, (canvas.height - height) / 2, width, height);
}

/** Draws a source into a canvas once its picture is there; rejects where it cannot be decoded. */
export async function drawSource(canvas: HTMLCanvasElement, source: Source): Promise<void> {
  const known = made.get(source.hash);
  if (known) {
    fit(canvas, known);
    return;
  }
  // A path map keeps a number in its alpha, and is looked at without.
  const look = source.recipe?.kind === 'path' ? 'rgb' : 'all';
  const bitmap = await pixels('sources').show(refOf(source), look, KEPT);
  made.set(source.hash, bitmap);
  if (made.size > 400) made.delete(made.keys().next().value ?? '');
  fit(canvas, bitmap);
}

/** A small canvas with a source's picture, for places that React does not draw. */
export function sourceCanvas(source: Source | undefined, size: number): HTMLCanvasElement {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [size, size];
  canvas.setAttribute('aria-hidden', 'true');
  if (source) drawSource(canvas, source).catch(() => undefined);
  return canvas;
}
