/// <reference lib="webworker" />
import type { DecodedImage } from '@estela/codecs';
import type { PixelImage, Program } from '@estela/core';
import { wrap, type Remote } from 'comlink';
import type { Decoding } from './textures.worker.ts';

/** A source's content: where its bytes are, and what they are. */
export interface PictureRef {
  readonly hash: string;
  readonly address: string;
}

/** What the page sends to a worker that reads pixels: the way to the one that decodes them. */
export interface DecodingPort {
  readonly decoding: MessagePort;
}

interface Link {
  readonly work: Remote<Decoding>;
  /** Fails once there is another. */
  readonly lost: Promise<never>;
}

let lose: (reason: Error) => void = () => undefined;
let link: Link | undefined;
let linked: () => void;
const first = new Promise<void>((resolve) => (linked = resolve));
addEventListener('message', ({ data }: MessageEvent<Partial<DecodingPort> | undefined>) => {
  if (!data?.decoding) return;
  lose(new Error('The pictures could not be read: out of memory.'));
  const lost = new Promise<never>((_, reject) => (lose = reject));
  lost.catch(() => undefined);
  link = { work: wrap<Decoding>(data.decoding), lost };
  linked();
});

async function ask(question: (work: Remote<Decoding>) => Promise<DecodedImage>): Promise<DecodedImage> {
  await first;
  const { work, lost } = link!;
  return Promise.race([question(work), lost]);
}

/** What was read and is still in use: the same picture is the same object. */
const read = new Map<string, WeakRef<DecodedImage>>();

/** The pixels of a source, which are decoded once for all workers. */
export async function decoded(picture: PictureRef): Promise<DecodedImage> {
  const known = read.get(picture.hash)?.deref();
  if (known) return known;
  const image = await ask((work) => work.decoded(picture));
  read.set(picture.hash, new WeakRef(image));
  return image;
}

/** Decodes bytes that are not stored yet. */
export const decodeNew = (bytes: Uint8Array<ArrayBuffer>): Promise<DecodedImage> =>
  ask((work) => work.decodeNew(bytes));

/** The pixels of all sources that a material reads and the project has, by name. */
export async function imagesOf(
  program: Program,
  pictures: ReadonlyMap<string, PictureRef>,
  read: (picture: PictureRef) => Promise<PixelImage | undefined> = decoded,
): Promise<Map<string, PixelImage>> {
  const images = new Map<string, PixelImage>();
  for (const { source } of program.images) {
    const picture = pictures.get(source);
    const image = picture && (await read(picture));
    if (image) images.set(source, image);
  }
  return images;
}
