import { readFile } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { materialGlb } from '@estela/codecs/gltf';
import { isMeshName, MESH_ENDINGS, MeshRefused, readMesh } from '@estela/codecs/mesh';
import {
  GLTF_FRAME_LIMIT,
  GLTF_IMAGES,
  GLTF_SIZES,
  SHAPES,
  shapeMesh,
  type GlbReport,
  type GltfImageType,
  type GltfOptions,
  type MeshData,
  type PackageImage,
  type Program,
  type SettingValues,
  type ShapeName,
  type SlotReport,
} from '@estela/core';
import { writeWhole } from './whole-file.ts';
import { fail, oneOf, wholeNumber, type Chosen } from './settings.ts';
import { say } from './wording.ts';

/** What a command was told of the GLB it writes. */
export interface GltfArguments extends Chosen {
  readonly gltf: string;
  readonly mesh: string;
  readonly size: string;
  readonly frames: string;
  readonly images: string;
  readonly json?: boolean;
}

/** How a GLB is to be written. Throws where an option is wrong. */
export function gltfOptions({
  size,
  frames,
  images,
}: Omit<GltfArguments, 'gltf'>): Pick<GltfOptions, 'size' | 'frames'> & { readonly imageType: GltfImageType } {
  const side = wholeNumber('--size', size);
  const count = wholeNumber('--frames', frames);
  if (!GLTF_SIZES.some((s) => s === side)) fail(say.takes('--size', GLTF_SIZES.join(', '), size));
  if (count > GLTF_FRAME_LIMIT) fail(say.goesFrom('--frames', 0, GLTF_FRAME_LIMIT));
  return { size: side, frames: count, imageType: oneOf('--images', images, GLTF_IMAGES) };
}

/** A shape by its name, or the mesh in a file. */
async function meshOf(name: string): Promise<MeshData> {
  if (Object.hasOwn(SHAPES, name)) return shapeMesh(name as ShapeName);
  if (!isMeshName(name)) fail(say.meshes(Object.keys(SHAPES), MESH_ENDINGS));
  const bytes = await readFile(name).catch(() => fail(say.unreadable(name)));
  try {
    const { mesh, notes } = await readMesh(name, new Uint8Array(bytes));
    for (const note of notes) console.error(note);
    return mesh;
  } catch (error) {
    if (!(error instanceof MeshRefused)) throw error;
    return fail(`${name} ${error.message}`);
  }
}

/** Writes a material on a mesh as GLB, and says what it says. Throws with a sentence where it cannot be. */
export async function writeGltf(
  program: Program,
  images: ReadonlyMap<string, PackageImage>,
  settings: SettingValues,
  options: GltfArguments,
): Promise<void> {
  const how = gltfOptions(options);
  const isChosen = options.variant !== undefined || options.set.length > 0;
  const { bytes, report } = await materialGlb(program, {
    ...how,
    mesh: await meshOf(options.mesh),
    meshName: basename(options.mesh, extname(options.mesh)),
    images: ({ name }) => images.get(name),
    values: isChosen ? settings : undefined,
  });
  await writeWhole(options.gltf, bytes);
  if (options.json === true) console.log(JSON.stringify({ file: options.gltf, bytes: bytes.length, ...report }));
  else console.log(`${say.wroteFile(options.gltf, bytes.length)}\n${wordsOf(report)}`);
}

/** A report as lines. */
function wordsOf({ materials, notes }: GlbReport): string {
  const lines = materials.flatMap(({ material, variant, slots, notes: own }) => [
    variant === undefined ? material : `${material}, ${variant}`,
    ...slots.map((slot) => `  ${slot.slot}: ${slotWords(slot)}`),
    ...own.map((note) => `  ${note}`),
  ]);
  return [...lines, ...notes].join('\n');
}

function slotWords({ fidelity, uvError, frames, why, line }: SlotReport): string {
  const near = uvError === undefined ? '' : `, within ${uvError.toPrecision(1)} UV`;
  const where = line === undefined ? '' : ` (line ${String(line)})`;
  return `${fidelity}${near}${frames === undefined ? '' : `, ${String(frames)} frames`}${why === undefined ? '' : `. ${why}${where}`}`;
}
