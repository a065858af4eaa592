import { deflateBand, zipped } from '@estela/codecs/files';
import {
  bakeFiles,
  bakePieces,
  bakePlan,
  bandMaker,
  check,
  parse,
  type BakePlan,
  type BakeRecipe,
  type Band,
} from '@estela/core';

export const TEXT = `material "Drifting haze"
loop 2s at 16fps
surface unlit blend two-sided

haze = uv |> pan(1 laps, heading: 90deg) |> fbm(4, octaves: 3)
glow = uv |> pan(-1 laps) |> fbm(3)
out color = (haze, glow, 0.5)
out opacity = haze
out roughness = glow
`;
export const SHEET: BakeRecipe = {
  format: 'sheet',
  size: [96, 64],
  frames: { count: 12 },
  columns: 4,
  bleed: 2,
  samples: 2,
};

/** The same work, done here. */
export async function bakedHere(text: string, recipe: BakeRecipe): Promise<Buffer> {
  const program = check(parse(text));
  const plan = bakePlan(program, recipe);
  const make = bandMaker(program, plan, () => undefined, deflateBand);
  return fileOfBands(plan, [...plan.bands.keys()].map(make));
}

export async function fileOfBands(plan: BakePlan, made: readonly Band[]): Promise<Buffer> {
  const bands = (async function* () {
    for (const band of made) yield Promise.resolve(band);
  })();
  const parts: Uint8Array[] = [];
  if (plan.files.length === 1) for await (const { bytes } of bakeFiles(plan, bands)) parts.push(bytes);
  else
    for await (const bytes of zipped(bakePieces(plan, bands, (t) => new Uint8Array(Buffer.from(t))))) parts.push(bytes);
  return Buffer.concat(parts);
}
