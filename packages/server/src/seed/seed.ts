import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { INestApplicationContext } from '@nestjs/common';
import { PNG } from 'pngjs';
import { MaterialsService } from '../materials/materials.service.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { ProjectRow } from '../storage/models.ts';
import { drawings } from '../../../../demo/drawings.ts';

/** A PNG file of 8-bit RGBA pixels; the same pixels give the same bytes. */
function pngOf({ width, height, data }: { width: number; height: number; data: Uint8Array }): Buffer {
  const png = new PNG({ width, height });
  png.data = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  return PNG.sync.write(png, { deflateLevel: 9 });
}

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
    for (const [name, draw] of Object.entries(drawings)) await app.get(SourcesService).create(project.id, name, pngOf(draw()));
    const files = (await readdir(join(folder, 'materials'))).filter((f) => f.endsWith('.wake')).sort();
    for (const file of files) await app.get(MaterialsService).create(project.id, await readFile(join(folder, 'materials', file), 'utf8'));
    return files.length;
  } catch (error) {
    // Half a demo would stop the next start from making a whole one.
    await ProjectRow.destroy({ where: { id: project.id } });
    throw error;
  }
}
