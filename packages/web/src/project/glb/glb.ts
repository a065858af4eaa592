import type { GlbReport, GltfImageType } from '@estela/core';
import { fetchFile } from '../fetch-file.ts';

/** How something is to leave as GLB. */
export interface GlbChoice {
  /** A shape by its name, or a mesh of the project by its id; undefined for a set. */
  readonly mesh?: string | undefined;
  /** One variant alone; undefined for all of them. */
  readonly variant?: string | undefined;
  /** Pixels along a side of what is baked. */
  readonly size: number;
  /** Of what changes in itself; 0 for its first moment. */
  readonly frames: number;
  readonly images: GltfImageType;
  /** Copies of a set are one mesh with many places. */
  readonly instanced?: boolean | undefined;
  readonly leaveOutMissing: boolean;
}
export const USUAL_GLB = { size: 512, frames: 0, images: 'png', leaveOutMissing: false } as const satisfies GlbChoice;

/** A GLB as the server wrote it. */
export interface Glb {
  readonly file: Blob;
  /** Without its ending. */
  readonly name: string;
  readonly report: GlbReport;
}

/** What in an address says how a GLB is to be; what is usual is left out. */
export function glbQuery(choice: GlbChoice): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(choice))
    if (value !== undefined && value !== (USUAL_GLB as Readonly<Record<string, unknown>>)[name] && value !== false)
      query.set(name, String(value));
  return query.toString();
}

/** Fetches a GLB of a material or a set, by the address of it. Throws NotExported, or an Error with a plain sentence. */
export async function fetchGlb(
  of: string,
  choice: GlbChoice,
  signal: AbortSignal,
  progress?: (share: number) => void,
): Promise<Glb> {
  const { bytes, name } = await fetchFile(`${of}/export.glb?${glbQuery(choice)}`, signal, progress);
  return { file: new Blob([bytes], { type: 'model/gltf-binary' }), name, report: reportIn(bytes) };
}

/** What a GLB of ours says of itself: in its JSON, which comes first (glTF 2.0, 4.4). */
export function reportIn(bytes: Uint8Array): GlbReport {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as {
    readonly asset: { readonly extras: { readonly estela: GlbReport } };
  };
  return json.asset.extras.estela;
}
