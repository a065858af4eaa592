import { materialGlb, setGlb, type GltfSetItem } from '@estela/codecs/gltf';
import { MeshRefused, readMesh } from '@estela/codecs/mesh';
import type { MaterialGlbQuery, SetBody, SetGlbQuery } from '@estela/contract';
import {
  SHAPES,
  settingValues,
  shapeMesh,
  type ImageSource,
  type MeshData,
  type Program,
  type ShapeName,
  type Vector,
} from '@estela/core';
import { readImages, readProgram, reason, type Refused } from './material-job.ts';
import { why } from '../http/wording.ts';

/** A mesh: a shape by its name, or a GLB. */
export type MeshJob =
  { readonly shape: string; readonly subdivisions?: number | null } | { readonly bytes: Uint8Array };

/** A material on a mesh. */
export interface MaterialGlbJob {
  readonly text: string;
  readonly mesh: MeshJob;
  readonly meshName: string;
  readonly how: MaterialGlbQuery;
  readonly images: ReadonlyMap<string, Uint8Array>;
}
/** A set, with the materials and meshes that it names. */
export interface SetGlbJob {
  readonly set: SetBody;
  /** Titles and texts by id. */
  readonly materials: ReadonlyMap<string, { readonly title: string; readonly text: string }>;
  /** Names and GLBs by id. */
  readonly meshes: ReadonlyMap<string, { readonly name: string; readonly bytes: Uint8Array }>;
  readonly how: SetGlbQuery;
  readonly images: ReadonlyMap<string, Uint8Array>;
}
export type GlbWritten = { readonly bytes: Uint8Array } | Refused;

/** The usual view of a set, and degrees from its top to its foot. */
const [FROM, AT, OPENING] = [[0.35, 0.25, 2.1], [0, 0, 0], 35] as const;

/** Writes a GLB in a thread of its own. */
export default async function work(job: MaterialGlbJob | SetGlbJob): Promise<GlbWritten> {
  try {
    const images = await readImages(job.images);
    const source: ImageSource = (slot) => images.get(slot.source);
    return 'set' in job ? await setOf(job, source) : await materialOf(job, source);
  } catch (thrown) {
    if (thrown instanceof MeshRefused) return { refused: why.ofItsMesh(thrown.message) };
    return { refused: reason(thrown) };
  }
}

async function materialOf(
  { text, mesh, meshName, how, images }: MaterialGlbJob,
  source: ImageSource,
): Promise<GlbWritten> {
  const program = readProgram({ text, images, variant: how.variant, leaveOutMissing: how.leaveOutMissing });
  if ('refused' in program) return program;
  const { bytes } = await materialGlb(program, {
    mesh: await meshOf(mesh),
    meshName,
    images: source,
    imageType: how.images,
    size: how.size,
    frames: how.frames,
    values: how.variant === undefined ? undefined : settingValues(program, how.variant),
  });
  return { bytes };
}

async function setOf({ set, materials, meshes, how, images }: SetGlbJob, source: ImageSource): Promise<GlbWritten> {
  const programs = new Map<string, Program>();
  for (const [id, { title, text }] of materials) {
    const program = readProgram({ text, images, leaveOutMissing: how.leaveOutMissing });
    if ('refused' in program) return { ...program, refused: `"${title}": ${program.refused}` };
    programs.set(id, program);
  }
  const shapes = new Map<string, Promise<MeshData>>();
  const items: GltfSetItem[] = [];
  const notes = new Set<string>();
  for (const item of set.items) {
    const own = meshes.get(item.mesh);
    if (!own && !Object.hasOwn(SHAPES, item.mesh)) {
      notes.add(why.meshGone);
      continue;
    }
    if (item.material !== null && !materials.has(item.material)) notes.add(why.materialGone);
    const key = `${item.mesh} ${String(item.subdivisions)}`;
    const mesh = shapes.get(key) ?? meshOf(own ?? { shape: item.mesh, subdivisions: item.subdivisions });
    shapes.set(key, mesh);
    const program = item.material === null ? undefined : programs.get(item.material);
    const variant = program?.variants.find((v) => v.name === item.variant)?.name;
    items.push({
      name: own?.name ?? item.mesh,
      mesh: await mesh,
      placing: item,
      material: program && { program, variant },
      turning: item.turning,
      delay: item.delay,
      isOverlay: item.overlay,
    });
  }
  const { scene, view, name } = set;
  const { bytes } = await setGlb(
    {
      name,
      items,
      environment: scene.environment,
      exposure: scene.exposure,
      view: (view as { from: Vector; at: Vector } | null) ?? { from: FROM, at: AT },
      opening: OPENING,
      notes: [...notes],
    },
    { images: source, imageType: how.images, isInstanced: how.instanced, size: how.size, frames: how.frames },
  );
  return { bytes };
}

const meshOf = async (job: MeshJob): Promise<MeshData> =>
  'bytes' in job
    ? (await readMesh('mesh.glb', job.bytes)).mesh
    : shapeMesh(job.shape as ShapeName, job.subdivisions ?? undefined);
