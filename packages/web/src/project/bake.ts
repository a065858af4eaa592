import { SIGNATURE_VERSION, type StepRecipe } from '@estela/core';
import type { Bake, Source } from '../api/client.ts';
import { pixels } from '../workers/pixels.ts';
import { bakesOf, isUnderWay } from './bakes-store.ts';
import { fileOf } from './new-maps.ts';
import { freeName, type SourcesStore } from './sources-store.ts';
import { refsOf } from './supply.ts';
import { isBaked, signatureOf, type ReadMaterial } from './usage.ts';

type Change = Parameters<SourcesStore['change']>[1];

async function bakedStep(store: SourcesStore, { material, program }: ReadMaterial, bake: StepRecipe): Promise<Change> {
  const { sources } = store.getState();
  const signature = await signatureOf(program, { kind: 'step', bake }, sources);
  if (signature === undefined) throw new Error(`The material no longer has the step '${bake.step}'.`);
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
  const change = await bakedStep(store, from, bake);
  return store.create({ ...change, name: freeName(name, store.getState().sources) }, `bake ${bake.step}`);
}

/** Whether a bake is one picture that a source can be: not one that moves, and no zip. */
export const canBeSource = ({ file, recipe }: Bake): boolean => file?.mime === 'image/png' && recipe.format !== 'apng';

/** A done bake as a source: the server has its bytes already. */
function asSource({ file, materialId, signature, recipe }: Bake): Change {
  if (!file) throw new Error('This bake is not finished.');
  return {
    hash: file.hash,
    recipe: { kind: 'bake', materialId, signature, version: SIGNATURE_VERSION, bake: recipe },
  };
}

/** Makes a source of a done bake, which remembers how it was made. */
export const sourceOfBake = (store: SourcesStore, bake: Bake): Promise<Source> =>
  store.create(
    { ...asSource(bake), name: freeName(bake.file?.name ?? 'bake.png', store.getState().sources) },
    `use the bake of ${bake.title}`,
  );

/** Waits for the end of a bake. Throws why there is none where it failed. */
async function bakeDone(bake: Bake): Promise<Bake> {
  const store = bakesOf(bake.projectId);
  const over = await new Promise<Bake | undefined>((resolve) => {
    const stop = store.subscribe(({ bakes }) => {
      const now = bakes.find((b) => b.id === bake.id);
      if (now && isUnderWay(now)) return;
      stop();
      resolve(now);
    });
  });
  if (over?.state !== 'done') throw new Error(over?.problem ?? 'The bake was cancelled.');
  return over;
}

/** Bakes a source again, as its material is now. */
export async function rebake(store: SourcesStore, source: Source, from: ReadMaterial): Promise<Source> {
  const { recipe, name } = source;
  if (!isBaked(recipe)) throw new Error('This source was not baked from a material.');
  const title = `bake ${name} again`;
  if (recipe.kind === 'step') return store.change(source, await bakedStep(store, from, recipe.bake), title);
  const done = await bakeDone(await bakesOf(source.projectId).create(from.material.id, recipe.bake));
  // Meanwhile it may have been changed.
  const now = store.getState().sources.find((s) => s.id === source.id);
  if (!now) throw new Error(`${name} was deleted meanwhile.`);
  return store.change(now, asSource(done), title);
}
