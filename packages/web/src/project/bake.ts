import { SIGNATURE_VERSION, type StepRecipe } from '@estela/core';
import type { Source } from '../api/client.ts';
import { pixels } from '../workers/pixels.ts';
import { fileOf } from './new-maps.ts';
import { freeName, type SourcesStore } from './sources-store.ts';
import { refsOf } from './supply.ts';
import { signatureOf, type ReadMaterial } from './usage.ts';

async function baked(
  store: SourcesStore,
  { material, program }: ReadMaterial,
  bake: StepRecipe,
): Promise<Parameters<SourcesStore['change']>[1]> {
  const { sources } = store.getState();
  const signature = await signatureOf(program, bake, sources);
  if (signature === undefined) throw new Error(`The material has no step '${bake.step}' any more.`);
  const made = await pixels('sources').step(material.text, bake, refsOf(sources));
  return {
    file: fileOf(made.bytes),
    recipe: { kind: 'step', materialId: material.id, signature, version: SIGNATURE_VERSION, bake },
  };
}

/** Bakes a step of a material into a new source that remembers how. */
export async function bakeToSource(
  store: SourcesStore,
  from: ReadMaterial,
  bake: StepRecipe,
  name: string,
): Promise<Source> {
  const change = await baked(store, from, bake);
  return store.create({ ...change, name: freeName(name, store.getState().sources) }, `bake ${bake.step}`);
}

/** Bakes a source again, as its material is now. */
export async function rebake(store: SourcesStore, source: Source, from: ReadMaterial): Promise<Source> {
  if (source.recipe?.kind !== 'step') throw new Error('This source was not baked from a step.');
  return store.change(source, await baked(store, from, source.recipe.bake), `bake ${source.name} again`);
}
