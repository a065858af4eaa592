import { transfer } from 'comlink';
import { addressOf, type Source } from '../api/client.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { PictureRef } from '../workers/decoded.ts';
import { textures } from '../workers/textures.ts';

/** A source as the workers know it. */
export const refOf = (source: Source): PictureRef => ({ hash: source.hash, address: addressOf(source) });

/** The pictures of a project by name, as workers take them. */
export const refsOf = (sources: readonly Source[]): Map<string, PictureRef> =>
  new Map(sources.map((s) => [s.name, refOf(s)]));

/** Gives a Stage the pixels of a project's sources, as they are at each moment. */
export function supplyOf(current: () => readonly Source[]): TextureSupply {
  const find = (name: string): Source | undefined => current().find((s) => s.name === name);
  return {
    contentOf: (name) => find(name)?.hash,
    load: (name, color, most) => {
      const source = find(name);
      return source
        ? textures().texture(refOf(source), color, most)
        : Promise.reject(new Error('There is no such source.'));
    },
  };
}

/** Hands a copy of a file's bytes to a worker, without a second copy. */
export async function handOver(file: Blob): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  return transfer(bytes, [bytes.buffer]);
}
