import type { Material, MeshPhysicalMaterial, Object3D, Texture } from 'three';
import { Mesh } from 'three';
import type { GLTF } from 'three/addons/loaders/GLTFLoader.js';

/** Sets a property of a material, component by component. */
type SetProperty = (material: MeshPhysicalMaterial, value: readonly number[]) => void;

/** A property that changes with time: keys, and the materials that have it. */
interface Track {
  /** By the number of a material in the file. */
  readonly material: number;
  readonly set: SetProperty;
  readonly times: Float32Array;
  readonly values: Float32Array;
  readonly isStepped: boolean;
}

/** What a pointer in a material names, by its way from there: KHR_animation_pointer. */
const FACTORS: Readonly<Record<string, SetProperty>> = {
  'pbrMetallicRoughness/baseColorFactor': (m, [r = 1, g = 1, b = 1, a = 1]) => {
    m.color.setRGB(r, g, b);
    m.opacity = a;
  },
  'pbrMetallicRoughness/roughnessFactor': (m, [v = 1]) => {
    m.roughness = v;
  },
  'pbrMetallicRoughness/metallicFactor': (m, [v = 1]) => {
    m.metalness = v;
  },
  emissiveFactor: (m, [r = 0, g = 0, b = 0]) => {
    m.emissive.setRGB(r, g, b);
  },
  alphaCutoff: (m, [v = 0.5]) => {
    m.alphaTest = v;
  },
  'extensions/KHR_materials_ior/ior': (m, [v = 1.5]) => {
    m.ior = v;
  },
  'extensions/KHR_materials_transmission/transmissionFactor': (m, [v = 0]) => {
    m.transmission = v;
  },
};
const TEXTURES: Readonly<Record<string, (m: MeshPhysicalMaterial) => readonly (Texture | null)[]>> = {
  'pbrMetallicRoughness/baseColorTexture': (m) => [m.map],
  'pbrMetallicRoughness/metallicRoughnessTexture': (m) => [m.roughnessMap, m.metalnessMap],
  normalTexture: (m) => [m.normalMap],
  emissiveTexture: (m) => [m.emissiveMap],
  'extensions/KHR_materials_transmission/transmissionTexture': (m) => [m.transmissionMap],
};
const PLACES: Readonly<Record<string, (texture: Texture, value: readonly number[]) => void>> = {
  offset: (t, [x = 0, y = 0]) => t.offset.set(x, y),
  rotation: (t, [v = 0]) => {
    t.rotation = v;
  },
  scale: (t, [x = 1, y = 1]) => t.repeat.set(x, y),
};

/** KHR_texture_transform scales before it turns; three itself turns before it scales. */
function place(texture: Texture): void {
  const { offset, rotation, repeat } = texture;
  const [c, s] = [Math.cos(rotation), Math.sin(rotation)];
  texture.matrixAutoUpdate = false;
  texture.matrix.set(repeat.x * c, repeat.y * s, offset.x, -repeat.x * s, repeat.y * c, offset.y, 0, 0, 1);
}

function setterOf(path: string): SetProperty | undefined {
  const [, texture, property] = /^(.*)\/extensions\/KHR_texture_transform\/(offset|rotation|scale)$/.exec(path) ?? [];
  if (texture === undefined || property === undefined) return FACTORS[path];
  const texturesOf = TEXTURES[texture];
  const set = PLACES[property];
  return (
    texturesOf &&
    set &&
    ((material, value) => {
      for (const one of texturesOf(material)) {
        if (!one) continue;
        set(one, value);
        place(one);
      }
    })
  );
}

/** Plays what a loaded file says of its materials by KHR_animation_pointer, which three itself leaves out. */
export class PointerPlayer {
  private constructor(
    readonly gltf: GLTF,
    readonly tracks: readonly Track[],
  ) {}

  static async of(gltf: GLTF): Promise<PointerPlayer> {
    const { parser } = gltf;
    const json = parser.json as {
      readonly animations?: readonly {
        readonly channels: readonly {
          readonly sampler: number;
          readonly target: { readonly extensions?: { readonly KHR_animation_pointer?: { readonly pointer: string } } };
        }[];
        readonly samplers: readonly {
          readonly input: number;
          readonly output: number;
          readonly interpolation?: string;
        }[];
      }[];
    };
    const numbers = async (accessor: number): Promise<Float32Array> =>
      ((await parser.getDependency('accessor', accessor)) as { readonly array: Float32Array }).array;
    const tracks: Track[] = [];
    for (const { channels, samplers } of json.animations ?? [])
      for (const { sampler, target } of channels) {
        const pointer = target.extensions?.KHR_animation_pointer?.pointer;
        const [, material, path] = /^\/materials\/(\d+)\/(.+)$/.exec(pointer ?? '') ?? [];
        const set = path === undefined ? undefined : setterOf(path);
        const { input, output, interpolation } = samplers[sampler]!;
        if (!set) continue;
        tracks.push({
          material: Number(material),
          set,
          times: await numbers(input),
          values: await numbers(output),
          isStepped: interpolation === 'STEP',
        });
      }
    return new PointerPlayer(gltf, tracks);
  }

  /** Shows a moment, in seconds from the start: each track goes round by itself. */
  show(seconds: number): void {
    const materials = materialsOf(this.gltf);
    for (const { material, set, times, values, isStepped } of this.tracks) {
      const at = valueAt(times, values, seconds % times.at(-1)!, isStepped);
      for (const one of materials.get(material) ?? []) set(one, at);
    }
  }
}

/** Materials that are shown, by their number in the file: three may have made several of one. */
function materialsOf({ scene, parser }: GLTF): ReadonlyMap<number, ReadonlySet<MeshPhysicalMaterial>> {
  const found = new Map<number, Set<MeshPhysicalMaterial>>();
  scene.traverse((object: Object3D) => {
    if (!(object instanceof Mesh)) return;
    for (const material of [object.material as Material | Material[]].flat()) {
      const number = parser.associations.get(material)?.materials;
      if (number === undefined) continue;
      const all = found.get(number) ?? new Set();
      found.set(number, all.add(material as MeshPhysicalMaterial));
    }
  });
  return found;
}

function valueAt(times: Float32Array, values: Float32Array, seconds: number, isStepped: boolean): number[] {
  const width = values.length / times.length;
  let next = times.findIndex((t) => t > seconds);
  if (next < 0) next = times.length;
  const of = (key: number): number[] => [...values.subarray(key * width, (key + 1) * width)];
  if (next === 0) return of(0);
  if (next === times.length || isStepped) return of(next - 1);
  const [from, to] = [times[next - 1]!, times[next]!];
  const share = (seconds - from) / (to - from);
  const [one, two] = [of(next - 1), of(next)];
  return one.map((v, i) => v + (two[i]! - v) * share);
}
