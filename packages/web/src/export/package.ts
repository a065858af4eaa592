import type { Target } from '@estela/core';
import { unzipSync } from 'fflate';
import { fetchFile } from '../project/fetch-file.ts';

/** How a package is asked for. */
export interface PackageQuery {
  readonly targets: readonly Target[];
  readonly variant: string | undefined;
  readonly normalY: 'up' | 'down';
  readonly leaveOutMissing: boolean;
}

/** A package as the server wrote it: the zip, and what is in it by name. */
export interface Package {
  readonly zip: Blob;
  /** What the zip is called, without its ending. */
  readonly name: string;
  readonly files: ReadonlyMap<string, Uint8Array>;
}

/** The part of an address that says how a package is to be. */
export function queryOf({ targets, variant, normalY, leaveOutMissing }: PackageQuery): string {
  const query = new URLSearchParams({ target: targets.join(','), normalY });
  if (variant !== undefined) query.set('variant', variant);
  if (leaveOutMissing) query.set('leaveOutMissing', 'true');
  return query.toString();
}

/** Fetches the package of a material, and unpacks it. */
export async function fetchPackage(
  material: string,
  query: PackageQuery,
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<Package> {
  const { bytes, name } = await fetchFile(`/api/materials/${material}/export.zip?${queryOf(query)}`, signal, progress);
  // The package's own way with workers is one that the policy of the page does not allow.
  const unpacked = unzipSync(bytes);
  return { zip: new Blob([bytes], { type: 'application/zip' }), name, files: new Map(Object.entries(unpacked)) };
}

/** A file of a package as text. */
export const textOf = ({ files }: Package, name: string): string => new TextDecoder().decode(files.get(name));
