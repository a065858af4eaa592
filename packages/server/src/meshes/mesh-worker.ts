import type { MessagePort } from 'node:worker_threads';
import { MeshRefused, readMesh } from '@estela/codecs/mesh';
import { why } from '../http/wording.ts';

/** Triangles of a GLB, or why it is not taken. */
export type ReadGlb = { readonly triangles: number } | { readonly refused: Pick<MeshRefused, 'code' | 'message'> };

/** Reads a GLB through, in a thread of its own. Says through `begun` when it begins: a thread takes time to start. */
export default async function read({ bytes, begun }: { bytes: Uint8Array; begun: MessagePort }): Promise<ReadGlb> {
  begun.postMessage('begun');
  begun.close();
  // JSON with its bytes in it is read elsewhere: what is stored is served as a GLB.
  if (!Buffer.from(bytes.subarray(0, 4)).equals(Buffer.from('glTF')))
    return { refused: { code: 'broken', message: why.notGlb } };
  try {
    const { mesh } = await readMesh('mesh.glb', bytes);
    return { triangles: mesh.indices.length / 3 };
  } catch (error) {
    if (!(error instanceof MeshRefused)) throw error;
    const { code, message } = error;
    return { refused: { code, message } };
  }
}
