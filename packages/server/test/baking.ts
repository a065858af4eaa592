import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
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
import { openDatabase } from '../src/storage/database.ts';
import { folder, ROOT } from './running.ts';

export const TEXT = `material "Drifting haze"
loop 2s at 16fps
surface unlit blend two-sided

haze = uv |> pan(1 lap, heading: 90deg) |> fbm(4, octaves: 3)
glow = uv |> pan(-1 lap) |> fbm(3)
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

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** SHA-256 of what the command line makes of the haze. */
export function bakedByCli(how: string, out: string): string {
  const [wake, file] = [join(folder, 'haze.wake'), join(folder, out)];
  writeFileSync(wake, TEXT);
  const cli = join(ROOT, 'packages/cli/dist/main.js');
  execFileSync(process.execPath, [cli, 'bake', wake, ...how.split(' '), '--out', file]);
  return sha256(readFileSync(file));
}

/** Of the bands that are kept of a bake in a data folder: by number, which row they are, so that one made anew is told. */
export async function bandRows(data: string, bakeId: string): Promise<Map<number, number>> {
  const database = await openDatabase(join(data, 'estela.sqlite'));
  const all = await database.bands.findAll({ where: { bakeId }, attributes: ['number', ['rowid', 'row']] });
  await database.close();
  return new Map(all.map((band) => [band.number, band.get('row') as number]));
}
