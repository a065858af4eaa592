import { applyEdits, check, parse } from '@estela/core';
import { api, type Source } from '../api/client.ts';
import type { SourcesStore } from './sources-store.ts';

/** Lets every material that names a source name another, as a new revision of each. */
async function renameInMaterials(projectId: string, from: string, to: string): Promise<void> {
  for (const { id, text, revision } of await api.materials(projectId)) {
    const edits = check(parse(text))
      .images.filter((image) => image.source === from)
      .map((image) => ({ ...image.sourceSpan, insert: `"${to}"` }));
    if (edits.length > 0) await api.saveMaterial(id, applyEdits(text, edits), revision);
  }
}

/** Gives a source another name, and the materials that read it the same name on their lines; all of it is one undo. */
export async function renameSource(store: SourcesStore, source: Source, name: string): Promise<void> {
  if (name === source.name) return;
  const { projectId, name: before } = source;
  await store.change(source, { name }, `rename ${before}`, {
    does: () => renameInMaterials(projectId, before, name),
    undoes: () => renameInMaterials(projectId, name, before),
  });
}
