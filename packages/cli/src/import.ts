import { readFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { glbOf, MeshRefused, readGltfMaterials, readMesh } from '@estela/codecs/mesh';
import { gltfMaterialText, packageName } from '@estela/core';
import { fail } from './settings.ts';
import { writeWhole } from './whole-file.ts';
import { say } from './wording.ts';

/**
 * Brings a glTF or GLB file of another program in: its meshes as one GLB, its textures, and a material for each of its
 * own that reads some. Throws with a sentence where it cannot be read.
 */
export async function importGltf(file: string, { out }: { readonly out: string }): Promise<number> {
  if (!/\.(glb|gltf)$/i.test(file)) fail(say.notGltf(file));
  const bytes = new Uint8Array(await readFile(file).catch(() => fail(say.unreadable(file))));
  const beside = await filesBeside(file, bytes);
  try {
    const { materials, images, notes } = await readGltfMaterials(bytes, beside);
    const { mesh, notes: unread } = await readMesh(file, bytes, beside);
    const stem = basename(file, extname(file));
    const written = new Set<string>();
    const write = async (name: string, content: Uint8Array): Promise<void> => {
      const ending = extname(name);
      let free = name;
      for (let n = 2; written.has(free); n++) free = `${name.slice(0, -ending.length)}-${String(n)}${ending}`;
      written.add(free);
      await writeWhole(join(out, free), content);
    };
    await write(`${stem}.glb`, await glbOf(mesh, stem));
    for (const { name, bytes: content } of images.values()) await write(name, content);
    const names = new Map([...images].map(([number, image]) => [number, image.name]));
    const said = [...notes, ...unread];
    for (const material of materials) {
      const { text, notes: own } = gltfMaterialText(material, material.name, names);
      await write(`${packageName(material.name).file}.wake`, new TextEncoder().encode(text));
      said.push(...own.map((note) => `${material.name}: ${note}`));
    }
    for (const note of said) console.error(note);
    console.log(say.wrote([...written].join(', '), out));
    return 0;
  } catch (error) {
    if (!(error instanceof MeshRefused)) throw error;
    return fail(`${file} ${error.message}`);
  }
}

/** Files that a glTF file names, from its own folder and below. */
async function filesBeside(file: string, bytes: Uint8Array): Promise<ReadonlyMap<string, Uint8Array>> {
  const beside = new Map<string, Uint8Array>();
  const text = new TextDecoder().decode(bytes);
  for (const [, uri] of text.matchAll(/"uri"\s*:\s*"([^"]{1,400})"/g)) {
    if (uri === undefined || uri.startsWith('data:')) continue;
    let path: string;
    try {
      path = decodeURIComponent(uri);
    } catch {
      path = uri;
    }
    const name = path.split('/').at(-1) ?? '';
    if (path.split(/[\\/]/).includes('..') || path.startsWith('/') || /^\w+:/.test(path)) continue;
    const content = await readFile(join(dirname(file), path)).catch(() => undefined);
    if (content) beside.set(name, new Uint8Array(content));
  }
  return beside;
}
