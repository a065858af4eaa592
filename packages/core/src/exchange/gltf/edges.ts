import { WasmEvaluator } from '../../backends/wasm/run.ts';
import type { ImageSource } from '../../image/pixels.ts';
import type { FrameInputs } from '../../ir/evaluate.ts';
import { widthOf, type Node } from '../../ir/node.ts';
import type { TextureMatrix } from './transform.ts';

/** Places looked at along each side of what is read. */
const ACROSS = 192;
/** Half a step of 255. */
const SEEN = 1 / 510;

/**
 * Whether a picture, wherever matrices read it from the square, is beyond its edges what it is at the nearest place of
 * them, as a clamped texture shows it. Measured on a grid over all that they read.
 */
export function endsAtItsEdge(
  picture: readonly Node[],
  matrices: readonly TextureMatrix[],
  frame: FrameInputs,
  images: ImageSource | undefined,
): boolean {
  const corners = matrices.flatMap((rows) =>
    [0, 1].flatMap((u) => [0, 1].map((v) => rows.map(([a, b, c]) => a * u + b * v + c) as [number, number])),
  );
  const [low, high] = [0, 1].map((axis) => {
    const all = corners.map((corner) => corner[axis]!);
    return [Math.min(0, ...all), Math.max(1, ...all)] as const;
  }) as [readonly [number, number], readonly [number, number]];
  const evaluator = new WasmEvaluator(picture, images);
  evaluator.setFrame(frame);
  const read = (uv: Float32Array): Float32Array[] => {
    const out = picture.map((node) => new Float32Array((uv.length / 2) * widthOf(node.type)));
    for (let start = 0; start < uv.length / 2; start += evaluator.blockSize) {
      const count = Math.min(evaluator.blockSize, uv.length / 2 - start);
      evaluator.block({ uv: uv.subarray(start * 2, (start + count) * 2) }, count, out, start);
    }
    return out;
  };
  const along = ([from, to]: readonly [number, number], i: number): number => from + ((to - from) * i) / (ACROSS - 1);
  const places = new Float32Array(ACROSS * ACROSS * 2);
  for (let i = 0; i < ACROSS * ACROSS; i++) {
    places[i * 2] = along(low, i % ACROSS);
    places[i * 2 + 1] = along(high, Math.floor(i / ACROSS));
  }
  const beyond = read(places);
  const edge = read(places.map((v) => Math.min(Math.max(v, 0), 1)));
  return beyond.every((values, n) => values.every((value, i) => Math.abs(value - edge[n]![i]!) <= SEEN));
}
