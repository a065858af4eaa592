import {
  GltfMaterials,
  IDENTITY,
  settingValues,
  type GlbReport,
  type GltfOptions,
  type ImageSource,
  type MeshData,
  type Program,
  type SettingValues,
  type GltfImageType,
} from '@estela/core';
import { sceneGlb } from './scene.ts';
import { notes } from '../wording.ts';

/** A GLB, and what it says of what is in it. */
export interface WrittenGlb {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly report: GlbReport;
}

/** How a material leaves as GLB. */
export interface MaterialGlbOptions extends GltfOptions {
  readonly mesh: MeshData;
  readonly meshName: string;
  readonly images: ImageSource;
  readonly imageType: GltfImageType;
  /** Settings of its own, without variants; else its base with all variants. */
  readonly values?: SettingValues | undefined;
}

/** Writes a material on a mesh. Throws with a sentence where it has errors, limits included. */
export async function materialGlb(program: Program, options: MaterialGlbOptions): Promise<WrittenGlb> {
  const { mesh, meshName, images, imageType, values } = options;
  const made = (settings: SettingValues) => new GltfMaterials(program, settings, images, options).at();
  const material = made(values ?? settingValues(program));
  const variants = values
    ? []
    : program.variants.map(({ name }) => ({ name, material: made(settingValues(program, name)) }));
  const report: GlbReport = {
    materials: [
      { material: program.title, ...material.report },
      ...variants.map((v) => ({ material: program.title, variant: v.name, ...v.material.report })),
    ],
    notes: mesh.colors ? [notes.noVertexColors] : [],
  };
  const bytes = await sceneGlb({
    name: program.title,
    things: [{ name: meshName, mesh, copies: [{ matrix: IDENTITY, material }], variants, turning: 0 }],
    isInstanced: false,
    images: imageType,
    report,
  });
  return { bytes, report };
}
