import type { Recipe } from '@estela/contract';
import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { encodePixels } from '@estela/codecs';
import { glbOf } from '@estela/codecs/mesh';
import {
  bakeStep,
  check,
  drawPathMap,
  paintFlowMap,
  parse,
  SIGNATURE_VERSION,
  stepSignature,
  type PixelImage,
} from '@estela/core';
import type { INestApplicationContext } from '@nestjs/common';
import type { Logger } from 'pino';
import { createApp } from '../app.ts';
import { MaterialsService } from '../materials/materials.service.ts';
import { MeshesService } from '../meshes/meshes.service.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { SetsService } from '../sets/sets.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { bytesIn } from '../storage/blobs.ts';
import { openDatabase } from '../storage/database.ts';
import { drawings } from '../../../../demo/drawings.ts';
import { flows, paths } from '../../../../demo/maps.ts';
import { meshes } from '../../../../demo/meshes.ts';
import { FERN_MASKS, MOSS_BAND, pictureNamed } from '../../../../demo/pictures.ts';
import { sets } from '../../../../demo/sets.ts';

/**
 * Makes a database that is not there yet, with the demo project in it: beside its place, and put there once it is
 * whole, so that a start that is interrupted leaves nothing. Gives the number of materials made; 0 where there is a
 * database.
 */
export async function makeDatabase(file: string, folder: string, log: Logger): Promise<number> {
  const draft = `${file}.seeding`;
  for (const ending of ['', '-wal', '-shm', '-journal']) await rm(`${draft}${ending}`, { force: true });
  if (existsSync(file)) return 0;
  const database = await openDatabase(draft);
  const app = await createApp({ database, log, hosts: [] });
  let made: number;
  try {
    made = await seedDemo(app, folder);
    // All of it in the one file that is moved.
    await database.sequelize.query('PRAGMA wal_checkpoint(TRUNCATE)');
    await database.sequelize.query('PRAGMA journal_mode = DELETE');
  } finally {
    await app.close();
    await database.close();
  }
  await rename(draft, file);
  return made;
}

/**
 * Makes the demo project: its images are drawn here and now, its materials read from `folder`/materials. Gives the
 * number of materials.
 */
async function seedDemo(app: INestApplicationContext, folder: string): Promise<number> {
  const projects = app.get(ProjectsService);
  const project = await projects.create({
    name: 'Glasshouse Nine',
    notes: 'A drifting greenhouse above a cloud planet. The demo project: change what you like.',
  });
  const add = (name: string, image: PixelImage, recipe: Recipe | null = null): Promise<unknown> =>
    app.get(SourcesService).create(project.id, { name, recipe }, bytesIn(Buffer.from(encodePixels(image))));
  for (const [name, draw] of Object.entries(drawings)) await add(name, draw());
  for (const [name, drawing] of Object.entries(paths)) await add(name, drawPathMap(drawing), { kind: 'path', drawing });
  for (const [name, drawing] of Object.entries(flows))
    await add(name, paintFlowMap(drawing), { kind: 'flow', drawing });
  await addMade(add);
  const titles = new Map<string, string>();
  const files = (await readdir(join(folder, 'materials'))).filter((f) => f.endsWith('.wake')).sort();
  for (const file of files) {
    const material = await app
      .get(MaterialsService)
      .create(project.id, await readFile(join(folder, 'materials', file), 'utf8'));
    if (file === 'petal-ward.wake') await addBaked(add, material);
    titles.set(material.title, material.id);
  }
  await addSets(app, project.id, titles);
  return files.length;
}

/** The meshes of the demo, and its sets, which hold them and the materials by their ids. */
async function addSets(
  app: INestApplicationContext,
  project: string,
  titles: ReadonlyMap<string, string>,
): Promise<void> {
  const names = new Map<string, string>();
  for (const [name, make] of Object.entries(meshes)) {
    const { id } = await app
      .get(MeshesService)
      .create(project, { name }, bytesIn(Buffer.from(await glbOf(make(), name))));
    names.set(name, id);
  }
  const of = (map: ReadonlyMap<string, string>) => (name: string) => {
    const id = map.get(name);
    if (id === undefined) throw new Error(`The demo has no ${name}.`);
    return id;
  };
  for (const set of sets(of(titles), of(names))) await app.get(SetsService).create(project, set);
}

type Add = (name: string, image: PixelImage, recipe: Recipe) => Promise<unknown>;

/** What is made of other sources: channels packed, a cut picture made tileable. */
async function addMade(add: Add): Promise<void> {
  const pick = { channel: 0, invert: false, constant: 0 } as const;
  const masks = pictureNamed('fern-masks.png')!;
  const { width, height } = masks;
  await add('fern-masks.png', masks, {
    kind: 'pack',
    width,
    height,
    bits: 8,
    picks: [...FERN_MASKS.map((source) => ({ ...pick, source })), { ...pick, constant: 1 }],
  });
  await add('moss.png', pictureNamed('moss.png')!, {
    kind: 'tile',
    from: 'moss-cut.png',
    method: 'patch',
    band: MOSS_BAND,
  });
}

/** The mask of the ward, baked from its step. */
async function addBaked(add: Add, { id, text }: { readonly id: string; readonly text: string }): Promise<void> {
  const program = check(parse(text));
  const bake = { step: 'mask', width: 256, height: 256, time: 0, encoding: 'data', bits: 16 } as const;
  const image = bakeStep(program, bake, () => undefined);
  const signature = stepSignature(program, bake, () => 'missing');
  if (!image || signature === undefined) throw new Error("The ward's mask cannot be baked.");
  await add('ward-mask.png', image, {
    kind: 'step',
    materialId: id,
    signature: createHash('sha256').update(signature).digest('hex'),
    version: SIGNATURE_VERSION,
    bake,
  });
}
