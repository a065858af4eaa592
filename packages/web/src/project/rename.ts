import { applyEdits, check, parse } from '@estela/core';
import { api, ApiError, sentence, type Material, type Source } from '../api/client.ts';
import type { SourcesStore } from './sources-store.ts';

/** How often a material that is being written elsewhere is read anew. */
const TRIES = 5;

/**
 * Lets one material that names a source name another, as a new revision: of the text as it is by then, whoever else
 * writes in it.
 */
async function renameIn({ id, text, revision }: Material, from: string, to: string, tries = TRIES): Promise<void> {
  const edits = check(parse(text))
    .images.filter((image) => image.source === from)
    .map((image) => ({ ...image.sourceSpan, insert: `"${to}"` }));
  if (edits.length === 0) return;
  try {
    await api.saveMaterial(id, applyEdits(text, edits), revision);
  } catch (error) {
    if (tries === 0 || !(error instanceof ApiError && error.status === 412)) throw error;
    await renameIn(await api.material(id), from, to, tries - 1);
  }
}

/**
 * Lets every material that names a source name another. One that cannot be written keeps none of the others from it.
 */
async function renameInMaterials(projectId: string, from: string, to: string): Promise<void> {
  const left: string[] = [];
  let why: unknown;
  for (const material of await api.materials(projectId)) {
    try {
      await renameIn(material, from, to);
    } catch (error) {
      why = error;
      left.push(material.title);
    }
  }
  if (left.length > 0)
    throw new Error(`It still has the old name in ${left.join(', ')}: ${sentence(why)}`, { cause: why });
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
