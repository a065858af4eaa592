import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from '@jest/globals';
import { materialGlb } from '@estela/codecs/gltf';
import { check, parse, shapeMesh } from '@estela/core';
import { validateBytes } from 'gltf-validator';

const DEMO = join(import.meta.dirname, '../../../demo');
const texts = ['materials', 'starts'].flatMap((folder) =>
  readdirSync(join(DEMO, folder))
    .filter((name) => name.endsWith('.wake'))
    .map((name) => [name, readFileSync(join(DEMO, folder, name), 'utf8')] as const),
);

it.each(texts)('%s', async (name, text) => {
  const program = check(parse(text));
  const { bytes, report } = await materialGlb(program, {
    mesh: shapeMesh('sphere', 8),
    meshName: 'sphere',
    images: () => undefined,
    imageType: 'png',
    size: 32,
    frames: 4,
  });
  const { issues } = await validateBytes(bytes);
  console.log(name, bytes.length, JSON.stringify(report, null, 1), JSON.stringify(issues.messages));
  expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
});
