import type { Program } from '../check/program.ts';
import { readSettings } from '../check/values.ts';
import { compile } from '../compile.ts';
import { digestOf } from '../ir/digest.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import { outputsOf, plainPack, readPack } from './pack.ts';
import type { BakeRecipe } from './recipe.ts';

/** Parts of a loop at which a material is looked at; no period that divides the loop divides these. */
const MOMENTS = [0, 0.236_067_977, 0.618_033_988, 0.854_101_966] as const;

/**
 * What a bake depends on, as a text: the graphs of its outputs with the values of some moments, the loop, and the contents
 * of images as `hashOf` tells them. While it stays the same, baking again would give the same files. Undefined where the
 * material does not put out what is baked any more.
 */
export function bakeSignature(
  program: Program,
  { outputs = ['color'], pack, variant, values = {} }: BakeRecipe,
  hashOf: (source: string) => string,
): string | undefined {
  const settings = readSettings(program, variant, Object.entries(values));
  const packed = pack === undefined ? outputs.map(plainPack) : [readPack(pack)];
  if (typeof settings === 'string' || packed.some((p) => typeof p === 'string')) return undefined;
  const { graph } = compile(program, { values: settings });
  const names = new Set(packed.flatMap((p) => (typeof p === 'string' ? [] : outputsOf(p))));
  const covers = names.has('color') && program.surface.mode !== 'opaque' && graph.outputs.has('opacity');
  const roots = [...names, ...(covers ? (['opacity'] as const) : [])].map((name) => graph.outputs.get(name));
  const { seconds, fps } = program.loop;
  const parts = [JSON.stringify([seconds, fps, program.surface.mode])];
  for (const root of roots) {
    if (!root) return undefined;
    for (const moment of MOMENTS) {
      const frame = evaluateFrame([root], { time: moment * seconds, dials: settings.dials });
      parts.push(digestOf(root, { frame, contentsOf: (slot) => hashOf(slot.source) }));
    }
  }
  return parts.join('\n\n');
}
