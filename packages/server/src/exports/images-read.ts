import type { Source } from '@estela/contract';
import { check, parse } from '@estela/core';
import type { SourcesService } from '../sources/sources.service.ts';

/** The sources of a project that texts read. */
export async function sourcesRead(
  sources: SourcesService,
  projectId: string,
  texts: readonly string[],
): Promise<readonly Source[]> {
  const reads = new Set(texts.flatMap((text) => check(parse(text)).images.map((i) => i.source)));
  return (await sources.list(projectId)).filter((source) => reads.has(source.name));
}

/** Files of sources by name. */
export async function filesOf(
  sources: SourcesService,
  images: readonly Pick<Source, 'id' | 'name'>[],
): Promise<ReadonlyMap<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>();
  for (const { id, name } of images) files.set(name, await sources.bytes(id));
  return files;
}
