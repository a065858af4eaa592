import { frameAt } from '../bake/bands.ts';
import { isSrgb, writtenPick } from '../bake/pack.ts';
import { isLinear, type BakeFile, type BakeImage, type BakePlan } from './bake-plan.ts';

/** Bytes of a picture on a graphics card, without mipmaps: as it is, and in blocks of 4 x 4 texels of 16 bytes each. */
export interface TextureMemory {
  readonly plain: number;
  readonly bc7: number;
  readonly astc4x4: number;
}

export function memoryOf(
  { width, height }: { readonly width: number; readonly height: number },
  bits: 8 | 16,
): TextureMemory {
  const blocks = Math.ceil(width / 4) * Math.ceil(height / 4) * 16;
  return { plain: (width * height * 4 * bits) / 8, bc7: blocks, astc4x4: blocks };
}

const encodingOf = ({ pack, options }: BakeImage): object =>
  Object.fromEntries(
    pack.map((pick, i) => [
      'rgba'[i]!,
      { holds: writtenPick(pick), encoding: isSrgb(pick, options.linear) ? 'srgb' : 'linear' },
    ]),
  );

/** What an engine must know of a bake, as docs/flipbook.schema.json says it. */
export function bakeManifest(plan: BakePlan): object {
  const { recipe, name, loop, frames, rate, closes, cells, images, pictures, files } = plan;
  const [width, height] = recipe.size;
  const fileOf = (image: number, picture: number): BakeFile =>
    files.find((f) => f.image === image && picture >= f.first && picture < f.first + f.count)!;
  return {
    format: 'estela-flipbook',
    version: 1,
    name,
    layout: recipe.format,
    ...(recipe.variant === undefined ? {} : { variant: recipe.variant }),
    ...(recipe.values ? { values: recipe.values } : {}),
    loop: { seconds: loop.seconds, fps: loop.fps, frames: loop.frames },
    frameSize: [width, height],
    rate: rate ?? null,
    closes,
    order: 'rows from the top left',
    columns: pictures[0]!.columns,
    rows: Math.ceil(pictures[0]!.frames.length / pictures[0]!.columns),
    bits: recipe.bits ?? 8,
    samples: recipe.samples ?? 1,
    bleed: cells.bleed,
    spread: cells.spread,
    premultiplied: recipe.premultiply ?? false,
    normalY: recipe.normalY ?? 'up',
    images: images.map((image) => ({ name: image.name, srgb: !isLinear(image), channels: encodingOf(image) })),
    files: files.map((file) => ({
      name: file.name,
      image: images[file.image]!.name,
      width: file.width,
      height: file.height,
      memory: memoryOf(file, recipe.bits ?? 8),
    })),
    frames: frames.map((frame, i) => {
      const [picture, place] = recipe.format === 'sheet' ? [0, i] : [i, 0];
      return {
        frame,
        seconds: frame / loop.fps,
        files: images.map((_, image) => fileOf(image, picture).name),
        ...frameAt(pictures[picture]!, place, { width, height }, cells),
        width,
        height,
      };
    }),
  };
}
