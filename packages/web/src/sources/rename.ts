import { applyEdits } from '@estela/core';
import { api, type Source } from '../api/client.ts';
import type { SourcesStore } from './sources-store.ts';
import type { Use } from './usage.ts';

/** Gives a source another name, and the materials that read it the same name on their lines. */
export async function renameSource(store: SourcesStore, source: Source, name: string, uses: readonly Use[]): Promise<void> {
  if (name === source.name) return;
  await store.change(source, { name }, `rename ${source.name}`);
  const materials = new Map(uses.map((u) => [u.material.id, u.material]));
  for (const material of materials.values()) {
    const edits = uses.filter((u) => u.material.id === material.id).map(({ image }) => ({ ...image.sourceSpan, insert: `"${name}"` }));
    await api.saveMaterial(material.id, applyEdits(material.text, edits), material.revision);
  }
}
