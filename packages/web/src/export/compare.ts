import { Baker, check, parse, settingValues, testGrid, type PixelImage } from '@estela/core';
import type { GlPixels } from '../material/shown.ts';
import type { TextureSupply } from '../gl/textures.ts';
import { drawGlsl, drawWgsl, type Manifest, type StageDrawing } from './drawn-package.ts';
import { textOf, type Package } from './package.ts';

/** Pixels along a side of what is compared, and how many moments of the loop are. */
const [SIDE, MOMENTS] = [96, 8];

/** How far the exported code is from the bake on this machine. */
export type Comparison =
  | { readonly kind: 'waiting' }
  /** Steps of 255, the largest of all pixels; where it is; and the share of pixels off by more than one. */
  | {
      readonly kind: 'measured';
      readonly worst: number;
      readonly frame: number;
      readonly place: readonly [x: number, y: number];
      readonly share: number;
    }
  | { readonly kind: 'not-here'; readonly why: string }
  | { readonly kind: 'failed'; readonly why: string };

export const COMPARED_FRAMES = MOMENTS;
export const COMPARED = ['glsl', 'wgsl'] as const;
export type ComparedTarget = (typeof COMPARED)[number];

/** What a shader reads as numbers of 16 bits is floats on the card, and these again in a bake. */
const storedOf = ({ width, height, data }: GlPixels): PixelImage => ({
  width,
  height,
  data: data instanceof Float32Array ? Uint16Array.from(data, (v) => Math.round(v * 65535)) : data,
});

/** Compares the complete stages of a package with the bake, one target after the other; tells each when it is known. */
export async function comparePackage(
  made: Package,
  variant: string | undefined,
  supply: TextureSupply,
  tell: (target: ComparedTarget, comparison: Comparison) => void,
  signal: AbortSignal,
): Promise<void> {
  const manifest = JSON.parse(textOf(made, `${made.name}.json`)) as Manifest;
  const program = check(parse(textOf(made, `${made.name}.wake`)));
  const [{ images }] = manifest.shaders;
  const load = (source: string, color: boolean): Promise<GlPixels> =>
    supply.contentOf(source) === undefined
      ? Promise.resolve(testGrid() as GlPixels)
      : supply.load(source, color, 16_384);
  const [read, stored] = await Promise.all([
    Promise.all(images.map((i) => load(i.source, i.encoding === 'color'))),
    Promise.all(images.map(async (i) => [i.source, storedOf(await load(i.source, false))] as const)),
  ]);
  const pictures = new Map(stored);
  const baker = Baker.of(
    program,
    settingValues(program, variant),
    { output: 'color', width: SIDE, height: SIDE, samples: 1 },
    ({ source }) => pictures.get(source),
  );
  if (!baker) {
    for (const target of COMPARED) tell(target, { kind: 'not-here', why: 'it has no colour output' });
    return;
  }
  const { frames, fps } = manifest.loop;
  const moments = Array.from({ length: Math.min(MOMENTS, frames) }, (_, i) => Math.floor((i * frames) / MOMENTS));
  const baked = new Map(moments.map((frame) => [frame, baker.frame(frame)]));
  const starts: Readonly<Record<ComparedTarget, (code: string) => Promise<StageDrawing | undefined> | StageDrawing>> = {
    glsl: (code) => drawGlsl(code, manifest, read, SIDE),
    wgsl: (code) => drawWgsl(code, manifest, read, SIDE),
  };
  for (const target of COMPARED) {
    if (signal.aborted) return;
    const file = `${made.name}.main.${target}`;
    if (!made.files.has(file)) continue;
    let drawing: StageDrawing | undefined;
    try {
      drawing = await starts[target](textOf(made, file));
      if (drawing) tell(target, await measured(drawing, baked, fps));
      else tell(target, { kind: 'not-here', why: 'this browser has no WebGPU' });
    } catch (error) {
      tell(target, { kind: 'failed', why: error instanceof Error ? error.message : String(error) });
    } finally {
      drawing?.end();
    }
  }
}

async function measured(
  drawing: StageDrawing,
  frames: ReadonlyMap<number, Uint8Array>,
  fps: number,
): Promise<Comparison> {
  let [worst, at, off, frameAt] = [0, 0, 0, 0];
  for (const [frame, expected] of frames) {
    const drawn = await drawing.draw(frame / fps);
    for (let i = 0; i < drawn.length; i += 4) {
      const [mine, baked] = [drawn[i + 3]!, expected[i + 3]!];
      let apart = Math.abs(mine - baked);
      // Colour counts as far as it covers: that of a clear pixel is nobody's.
      for (let c = 0; c < 3; c++)
        apart = Math.max(apart, Math.round(Math.abs(drawn[i + c]! * mine - expected[i + c]! * baked) / 255));
      if (apart > 1) off++;
      if (apart > worst) [worst, at, frameAt] = [apart, i / 4, frame];
    }
  }
  return {
    kind: 'measured',
    worst,
    frame: frameAt,
    place: [at % SIDE, Math.floor(at / SIDE)],
    share: off / (SIDE * SIDE * frames.size),
  };
}
