import { bakeSignature, check, parse, SIGNATURE_VERSION, stepSignature, type Program } from '@estela/core';
import type { Material, Recipe, Source } from '../api/client.ts';
import { sha256 } from '../workers/sha256.ts';

/** A material with its checked text. */
export interface ReadMaterial {
  readonly material: Material;
  readonly program: Program;
}

/** One line of a material that reads a source. */
export interface Use extends ReadMaterial {
  readonly image: Program['images'][number];
}

export const readMaterials = (materials: readonly Material[]): ReadMaterial[] =>
  materials.map((material) => ({ material, program: check(parse(material.text)) }));

/** Where a source is read, material by material. */
export const usesOf = (name: string, materials: readonly ReadMaterial[]): Use[] =>
  materials.flatMap((m) => m.program.images.filter((image) => image.source === name).map((image) => ({ ...m, image })));

export const isPowerOfTwo = (n: number): boolean => n > 0 && (n & (n - 1)) === 0;

/** How a source was made of a material: a step at a moment, or frames. */
export type BakedRecipe = Extract<Recipe, { readonly kind: 'step' | 'bake' }>;
export const isBaked = (recipe: Recipe | null): recipe is BakedRecipe =>
  recipe?.kind === 'step' || recipe?.kind === 'bake';

/** The same without where it came from. */
type Baked = {
  [K in BakedRecipe['kind']]: Pick<Extract<BakedRecipe, { kind: K }>, 'kind' | 'bake'>;
}[BakedRecipe['kind']];

/** SHA-256 of what a baked source depends on; undefined where the material does not have it. */
export async function signatureOf(
  program: Program,
  recipe: Baked,
  sources: readonly Source[],
): Promise<string | undefined> {
  const hashOf = (name: string): string => sources.find((s) => s.name === name)?.hash ?? 'missing';
  const text =
    recipe.kind === 'step' ? stepSignature(program, recipe.bake, hashOf) : bakeSignature(program, recipe.bake, hashOf);
  return text === undefined ? undefined : sha256(new TextEncoder().encode(text));
}

/**
 * A baked source's state: as its material would make it now, changed since, without its step, or baked by an older
 * Estela, whose signature says nothing to this one.
 */
export type Freshness = 'fresh' | 'stale' | 'lost' | 'unknown';

/** Judges every source that was baked from a material. */
export async function freshnessOf(
  sources: readonly Source[],
  materials: readonly ReadMaterial[],
): Promise<Map<string, Freshness>> {
  const result = new Map<string, Freshness>();
  for (const { id, recipe } of sources) {
    if (!isBaked(recipe)) continue;
    const made = materials.find((m) => m.material.id === recipe.materialId);
    const now = made && (await signatureOf(made.program, recipe, sources));
    const comparable = (recipe.version ?? 1) === SIGNATURE_VERSION;
    const state = now === recipe.signature ? 'fresh' : comparable ? 'stale' : 'unknown';
    result.set(id, now === undefined ? 'lost' : state);
  }
  return result;
}
