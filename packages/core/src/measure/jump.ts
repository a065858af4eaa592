import { rowsOf } from '../backends/wasm/rows.ts';
import { dependsOnTime, widthOf, type Node } from '../ir/node.ts';
import type { Subject } from './subject.ts';

export interface Jump {
  /**
   * The largest change from the last frame to the first over the median change between neighbouring frames; 1 is
   * seamless.
   */
  readonly ratio: number;
  /** Other neighbouring frames change as much, as with stepped motion: the ratio is large and no cut is seen. */
  readonly usual: boolean;
  /** Change from each frame to the next, the last one's to the first at the end: 0 is none, 1 from black to white. */
  readonly changes: readonly number[];
}

/**
 * Sides of the square patches whose mean changes are compared: noise in single pixels hides no cut, a cut in a corner
 * shows.
 */
const PATCHES = 4;
/** Changes below this are none: half a step of 8 bits. */
const LEAST = 1 / 512;
/** Most frames that are looked at; longer loops are looked at around the loop point and at even steps between. */
const FRAME_LIMIT = 240;

/**
 * Largest mean change of a patch between two pictures of all outputs, components held to -1..2 so that one bright value
 * does not hide the rest.
 */
function changeBetween(
  a: readonly Float32Array[],
  b: readonly Float32Array[],
  widths: readonly number[],
  size: number,
): number {
  if (a === b) return 0;
  const side = size / PATCHES;
  const clamped = (v: number): number => (v < -1 ? -1 : v > 2 ? 2 : v);
  let largest = 0;
  a.forEach((plane, r) => {
    const [other, width] = [b[r]!, widths[r]!];
    for (let patch = 0; patch < PATCHES * PATCHES; patch++) {
      const [left, top] = [(patch % PATCHES) * side, (patch - (patch % PATCHES)) * (side / PATCHES)];
      let sum = 0;
      for (let y = top; y < top + side; y++) {
        for (let at = (y * size + left) * width, end = at + side * width; at < end; at += width) {
          let max = 0;
          for (let c = at; c < at + width; c++) {
            const apart = clamped(plane[c]!) - clamped(other[c]!);
            if (apart > max) max = apart;
            else if (-apart > max) max = -apart;
          }
          sum += max;
        }
      }
      if (sum > largest) largest = sum;
    }
  });
  return largest / (side * side);
}

/**
 * Measures how a loop's last frame meets its first, by evaluating pictures of size by size pixels (a multiple of 4).
 */
export function measureJump(
  { graph, dials, images }: Subject,
  size: number,
  roots: readonly Node[] = [...graph.outputs.values()],
): Jump {
  const { frames, fps } = graph.program.loop;
  if (roots.length === 0) return { ratio: 1, usual: true, changes: [] };
  const stride = Math.max(1, Math.ceil(frames / FRAME_LIMIT));
  const evaluator = rowsOf(roots, images ?? (() => undefined), { width: size, frames: Math.ceil(frames / stride) });
  const widths = roots.map((r) => widthOf(r.type));
  const evaluate = (frame: number): readonly Float32Array[] => {
    evaluator.setFrame({ time: frame / fps, dials });
    return evaluator.picture(size, size);
  };
  const still = dependsOnTime(roots) ? undefined : evaluate(0);
  const pictureAt = (frame: number): readonly Float32Array[] => still ?? evaluate(frame);
  const changes: number[] = [];
  const first = pictureAt(0);
  let before = first;
  for (let f = 0; f < frames; f += stride) {
    if (f > 0 && stride > 1) before = pictureAt(f);
    const next = f + 1 >= frames ? first : pictureAt(f + 1);
    changes.push(changeBetween(before, next, widths, size));
    before = next;
  }
  // With steps over two frames the last pair may have been left out.
  if ((frames - 1) % stride !== 0) changes.push(changeBetween(pictureAt(frames - 1), first, widths, size));
  const cut = changes.at(-1) ?? 0;
  const usual = [...changes.slice(0, -1)].sort((a, b) => a - b);
  const median =
    usual.length === 0
      ? cut
      : (usual[Math.floor((usual.length - 1) / 2)]! + usual[Math.ceil((usual.length - 1) / 2)]!) / 2;
  const strong = usual[Math.floor(usual.length * 0.9)] ?? cut;
  return {
    usual: cut <= 1.5 * strong + LEAST,
    ratio: cut < LEAST && median < LEAST ? 1 : cut / Math.max(median, LEAST),
    changes,
  };
}
