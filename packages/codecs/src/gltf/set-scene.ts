import {
  ENVIRONMENTS,
  GltfMaterials,
  instancesOf,
  settingValues,
  type EnvironmentName,
  type GltfMaterial,
  type GltfOptions,
  type ImageSource,
  type MaterialReport,
  type MeshData,
  type Placing,
  type Program,
  type Vector,
  type GltfImageType,
} from '@estela/core';
import type { WrittenGlb } from './material-scene.ts';
import { sceneGlb, type GltfThing } from './scene.ts';
import { notes as left } from '../wording.ts';

/** One mesh on a set, with its copies. */
export interface GltfSetItem {
  readonly name: string;
  readonly mesh: MeshData;
  readonly placing: Placing;
  /** A material that is checked already, and the name of its variant; undefined shows plain grey. */
  readonly material: { readonly program: Program; readonly variant: string | undefined } | undefined;
  /** Seconds that a turn about its own upright takes; 0 for none, below 0 the other way. */
  readonly turning: number;
  /** Seconds that each copy is behind the one before it. */
  readonly delay: number;
  /** Lies over the whole view. */
  readonly isOverlay: boolean;
}
export interface GltfSet {
  readonly name: string;
  readonly items: readonly GltfSetItem[];
  /** Names that are not known give the usual one. */
  readonly environment: string;
  /** In stops. */
  readonly exposure: number;
  readonly view: { readonly from: Vector; readonly at: Vector };
  /** From the top of the view to its foot, in degrees. */
  readonly opening: number;
  /** What is missing of it already, as sentences. */
  readonly notes: readonly string[];
}
export interface SetGlbOptions extends GltfOptions {
  readonly images: ImageSource;
  readonly imageType: GltfImageType;
  /** Copies that only stand are one mesh with many places. */
  readonly isInstanced: boolean;
}

/** Writes a set as one scene. Throws with a sentence where a material has errors, limits included. */
export async function setGlb(set: GltfSet, options: SetGlbOptions): Promise<WrittenGlb> {
  const looks = new Looks(options);
  const things: GltfThing[] = [];
  const overlays: GltfMaterial[] = [];
  for (const { name, mesh, placing, material, turning, delay, isOverlay } of set.items) {
    if (isOverlay) {
      if (material) overlays.push(looks.of(material, 0));
      continue;
    }
    const copies = instancesOf(placing).map((matrix, i) => ({
      matrix,
      material: material && looks.of(material, i * delay),
    }));
    things.push({ name, mesh, copies, variants: [], turning });
  }
  const known = Object.hasOwn(ENVIRONMENTS, set.environment) ? (set.environment as EnvironmentName) : 'studio';
  const { key } = ENVIRONMENTS[known];
  const isHeld = options.isInstanced && set.items.some((i) => i.placing.copies && (i.turning !== 0 || i.delay !== 0));
  const report = {
    materials: looks.reports,
    notes: [
      ...set.notes,
      left.onlyKeyLight,
      ...(set.exposure === 0 ? [] : [left.noExposure(set.exposure)]),
      ...overlays.map((overlay) => left.overlay(overlay.name)),
      ...(isHeld ? [left.separateCopies] : []),
    ],
  };
  const bytes = await sceneGlb({
    name: set.name,
    things,
    camera: { ...set.view, opening: set.opening, overlays },
    light: { towards: key.towards, light: key.light },
    isInstanced: options.isInstanced,
    images: options.imageType,
    report,
  });
  return { bytes, report };
}

/** The materials of a set, each once for each variant and delay. */
class Looks {
  readonly reports: MaterialReport[] = [];
  readonly #sources = new Map<string, { readonly made: GltfMaterials; readonly name: string }>();
  readonly #materials = new Map<string, GltfMaterial>();
  readonly #numbers = new Map<Program, number>();

  constructor(readonly options: SetGlbOptions) {}

  of({ program, variant }: NonNullable<GltfSetItem['material']>, delay: number): GltfMaterial {
    const number = this.#numbers.get(program) ?? this.#numbers.size;
    this.#numbers.set(program, number);
    const key = `${String(number)} ${variant ?? ''}`;
    let source = this.#sources.get(key);
    const isNew = !source;
    source ??= {
      made: new GltfMaterials(program, settingValues(program, variant), this.options.images, this.options),
      name: variant === undefined ? program.title : `${program.title}: ${variant}`,
    };
    this.#sources.set(key, source);
    const late = ((delay % program.loop.seconds) + program.loop.seconds) % program.loop.seconds;
    const at = `${key} ${String(late)}`;
    let material = this.#materials.get(at);
    if (!material) {
      const suffix = late === 0 ? '' : `, ${String(Number(late.toFixed(3)))} s later`;
      material = { ...source.made.at(late), name: `${source.name}${suffix}` };
      this.#materials.set(at, material);
    }
    if (isNew)
      this.reports.push({
        material: program.title,
        ...(variant === undefined ? {} : { variant }),
        ...material.report,
      });
    return material;
  }
}
