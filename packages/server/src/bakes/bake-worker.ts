import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import { move, transferableSymbol, valueSymbol } from 'piscina';
import { deflateBand } from '@estela/codecs/files';
import { nodeDecoder } from '@estela/codecs/node';
import {
  Baker,
  bakePlan,
  BakeRefused,
  bakeSignature,
  bandMaker,
  check,
  encodePng,
  parse,
  type BakePlan,
  type BakeRecipe,
  type Band,
  type PixelImage,
} from '@estela/core';

/** A material as it was when a bake of it was asked for. */
export interface BakeSubject {
  readonly text: string;
  readonly recipe: BakeRecipe;
}

/** What is to be made of a material, or why it cannot be. */
export type Planned = { readonly plan: BakePlan; readonly reads: readonly string[] } | { readonly refused: string };

/** Works a recipe out, and says which images are read. */
function plan({ text, recipe }: BakeSubject): Planned {
  const program = check(parse(text));
  try {
    return { plan: bakePlan(program, recipe), reads: [...new Set(program.images.map((i) => i.source))] };
  } catch (error) {
    if (error instanceof BakeRefused) return { refused: error.message };
    throw error;
  }
}

/** SHA-256 of what a bake depends on, images by the hashes of their contents. */
function signature({ text, recipe, hashes }: BakeSubject & { readonly hashes: ReadonlyMap<string, string> }): string {
  const depends = bakeSignature(check(parse(text)), recipe, (source) => hashes.get(source) ?? 'missing');
  return createHash('sha256')
    .update(depends ?? '')
    .digest('hex');
}

const decoder = nodeDecoder();

/** Decodes an image into memory that all threads share. Throws with a sentence where it cannot be read. */
async function image({ name, bytes }: { readonly name: string; readonly bytes: Uint8Array }): Promise<PixelImage> {
  const { width, height, data } = await decoder.decode(bytes).catch((error: unknown) => {
    throw new Error(`"${name}" ${error instanceof Error ? error.message : 'cannot be read.'}`);
  });
  const shared = new SharedArrayBuffer(data.byteLength);
  const own = data instanceof Uint16Array ? new Uint16Array(shared) : new Uint8Array(shared);
  own.set(data);
  return { width, height, data: own };
}

/** A material with its images, by their source's name. */
export interface Drawn extends BakeSubject {
  readonly id: string;
  readonly images: ReadonlyMap<string, PixelImage>;
}

let kept: { readonly id: string; readonly make: (index: number) => Band } | undefined;

/** Bands of a bake, from `first` up to `end`. */
function bands({
  id,
  text,
  recipe,
  images,
  first,
  end,
}: Drawn & { readonly first: number; readonly end: number }): readonly Band[] {
  if (kept?.id !== id) {
    const program = check(parse(text));
    const make = bandMaker(program, bakePlan(program, recipe), (slot) => images.get(slot.source), deflateBand);
    kept = { id, make };
  }
  const { make } = kept;
  const made = Array.from({ length: end - first }, (_, i) => make(first + i));
  // Their bytes are handed over, not copied.
  return move({
    get [transferableSymbol]() {
      return made.map((band) => band.bytes.buffer);
    },
    get [valueSymbol]() {
      return made;
    },
  }) as unknown as readonly Band[];
}

/** Longest side of the picture of a bake, in pixels. */
const PICTURE = 192;

/** A small picture of a bake's first frame. */
function picture({ text, recipe, images }: Drawn): Uint8Array {
  const program = check(parse(text));
  const { values, frames, images: shown } = bakePlan(program, recipe);
  const { options } = shown[0]!;
  const scale = Math.min(1, PICTURE / Math.max(options.width, options.height));
  const side = (length: number): number => Math.max(1, Math.round(length * scale));
  const size = { width: side(options.width), height: side(options.height) };
  const baker = Baker.of(program, values, { ...options, ...size, bits: 8 }, (slot) => images.get(slot.source));
  if (!baker) throw new Error('This material does not put this out.');
  return encodePng({ ...size, data: baker.frame(frames[0]!) }, (bytes) => deflateSync(bytes));
}

const tasks = { plan, signature, image, bands, picture };
export type BakeTasks = typeof tasks;

/** One piece of work for a thread. */
export interface BakeTask<K extends keyof BakeTasks = keyof BakeTasks> {
  readonly kind: K;
  readonly of: Parameters<BakeTasks[K]>[0];
}

export default function work({ kind, of }: BakeTask): unknown {
  return (tasks[kind] as (of: unknown) => unknown)(of);
}
