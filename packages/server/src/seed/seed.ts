import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { encodePixels } from '@estela/codecs';
import { drawPathMap, paintFlowMap, type PixelImage } from '@estela/core';
import type { INestApplicationContext } from '@nestjs/common';
import { MaterialsService } from '../materials/materials.service.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import type { Recipe } from '../sources/sources.schema.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { ProjectRow } from '../storage/models.ts';
import { drawings } from '../../../../demo/drawings.ts';
import { flows, paths } from '../../../../demo/maps.ts';

/**
 * Fills an empty database with the demo project: its images are drawn here and now, its materials
 * read from `folder`/materials. Gives the number of materials made; 0 where there is a project already.
 */
export async function seedDemo(app: INestApplicationContext, folder: string): Promise<number> {
  if ((await ProjectRow.count()) > 0) return 0;
  const projects = app.get(ProjectsService);
  const project = await projects.create({
    name: 'Glasshouse Nine',
    notes: 'A drifting greenhouse above a cloud planet. The demo project: change what you like.',
  });
  try {
    const add = (name: string, image: PixelImage, recipe: Recipe | null = null): Promise<unknown> =>
      app.get(SourcesService).create(project.id, { name, recipe }, Buffer.from(encodePixels(image)));
    for (const [name, draw] of Object.entries(drawings)) await add(name, draw());
    for (const [name, drawing] of Object.entries(paths)) await add(name, drawPathMap(drawing), { kind: 'path', drawing });
    for (const [name, drawing] of Object.entries(flows)) await add(name, paintFlowMap(drawing), { kind: 'flow', drawing });
    const files = (await readdir(join(folder, 'materials'))).filter((f) => f.endsWith('.wake')).sort();
    for (const file of files) await app.get(MaterialsService).create(project.id, await readFile(join(folder, 'materials', file), 'utf8'));
    return files.length;
  } catch (error) {
    // Half a demo would stop the next start from making a whole one.
    await ProjectRow.destroy({ where: { id: project.id } });
    throw error;
  }
}
