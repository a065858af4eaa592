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
  type BakeChunk,
  type BakePlan,
  type BakeRecipe,
  type Band,
  type PixelImage,
} from '@estela/core';
import { Recent } from '../recent.ts';
import { digestOf, unpackBands, type ExpectedBand } from './workers/chunk-body.ts';
import { why } from '../http/wording.ts';

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

/** What makes the bands of bakes that a thread has begun: chunks come in turn between bakes. */
const begun = new Recent<(index: number) => Band>(4);

const makerOf = ({ id, text, recipe, images }: Drawn): ((index: number) => Band) =>
  begun.get(id, () => {
    const program = check(parse(text));
    return bandMaker(program, bakePlan(program, recipe), (slot) => images.get(slot.source), deflateBand);
  });

/** Hands a value over to who asked, with the memory of its bands, which is not copied. */
const handedOver = <T extends object>(value: T, made: readonly Band[]): T =>
  move({
    get [transferableSymbol]() {
      return made.map((band) => band.bytes.buffer);
    },
    get [valueSymbol]() {
      return value;
    },
  }) as unknown as T;

/** Bands of a bake, from `first` up to `end`. */
function bands({ first, end, ...drawn }: Drawn & BakeChunk): readonly Band[] {
  const make = makerOf(drawn);
  const made = Array.from({ length: end - first }, (_, i) => make(first + i));
  return handedOver(made, made);
}

/** A chunk as it came over the wire. */
export interface PackedChunk {
  readonly packed: Uint8Array;
  /** Its `Content-Digest`. */
  readonly digest: string;
  readonly expected: readonly ExpectedBand[];
}
/** Its bands; or that it came otherwise than it was sent, or what is wrong with it. */
export type UnpackedChunk = { readonly bands: readonly Band[] } | { readonly torn: true } | { readonly wrong: string };

function unpack({ packed, digest, expected }: PackedChunk): UnpackedChunk {
  if (digestOf(packed) !== digest) return { torn: true };
  try {
    const read = unpackBands(packed, expected);
    return handedOver({ bands: read }, read);
  } catch (error) {
    return { wrong: error instanceof Error ? error.message : String(error) };
  }
}

/** A material whose bands two machines must make alike, to the byte, for a bake to be shared between them. */
const TRIAL = `loop 2s at 30fps
turned = uv |> spin(1 lap) |> tile(2)
cloud = uv |> pan(1 lap, heading: 30deg) |> fbm(4, octaves: 4)
out color = (sin(turned.x * 9) * 0.5 + 0.5, cloud, exp(cloud - 2))
out opacity = power(cloud, 2.2)
`;

/** SHA-256 of what this machine makes of the trial. */
function trial(): string {
  const program = check(parse(TRIAL));
  const plan = bakePlan(program, { format: 'sheet', size: [48, 48], frames: { count: 4 }, samples: 2, bits: 16 });
  const make = bandMaker(program, plan, () => undefined, deflateBand);
  const hash = createHash('sha256');
  for (const number of plan.bands.keys()) hash.update(make(number).bytes);
  return hash.digest('hex');
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
  if (!baker) throw new Error(why.noSuchOutput);
  return encodePng({ ...size, data: baker.frame(frames[0]!) }, (bytes) => deflateSync(bytes));
}

const tasks = { plan, signature, image, bands, picture, unpack, trial };
export type BakeTasks = typeof tasks;

/** One piece of work for a thread. */
export interface BakeTask<K extends keyof BakeTasks = keyof BakeTasks> {
  readonly kind: K;
  readonly of: Parameters<BakeTasks[K]>[0];
}

export default function work({ kind, of }: BakeTask): unknown {
  return (tasks[kind] as (of: unknown) => unknown)(of);
}
