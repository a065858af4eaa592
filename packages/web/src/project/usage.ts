import { check, parse, SIGNATURE_VERSION, stepSignature, type Program } from '@estela/core';
import type { Material, Source } from '../api/client.ts';
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

/** SHA-256 of what a baked step depends on; undefined where the material has no such step. */
export async function signatureOf(
  program: Program,
  bake: Parameters<typeof stepSignature>[1],
  sources: readonly Source[],
): Promise<string | undefined> {
  const text = stepSignature(program, bake, (name) => sources.find((s) => s.name === name)?.hash ?? 'missing');
  return text === undefined ? undefined : sha256(new TextEncoder().encode(text));
}

/**
 * A baked source's state: as its material would make it now, changed since, without its step, or baked by an older
 * Estela, whose signature says nothing to this one.
 */
export type Freshness = 'fresh' | 'stale' | 'lost' | 'unknown';

/** Judges every source that was baked from a step. */
export async function freshnessOf(
  sources: readonly Source[],
  materials: readonly ReadMaterial[],
): Promise<Map<string, Freshness>> {
  const result = new Map<string, Freshness>();
  for (const { id, recipe } of sources) {
    if (recipe?.kind !== 'step') continue;
    const made = materials.find((m) => m.material.id === recipe.materialId);
    const now = made && (await signatureOf(made.program, recipe.bake, sources));
    const comparable = (recipe.version ?? 1) === SIGNATURE_VERSION;
    const state = now === recipe.signature ? 'fresh' : comparable ? 'stale' : 'unknown';
    result.set(id, now === undefined ? 'lost' : state);
  }
  return result;
}
