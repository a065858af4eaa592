import { createHash } from 'node:crypto';
import type {
  GltfMaterial,
  GltfPicture,
  GltfSlot,
  GltfSlotValue,
  GltfTexture,
  ValueKeys,
  GltfImageType,
} from '@estela/core';
import {
  TextureInfo,
  type Accessor,
  type Animation,
  type Document,
  type Material,
  type Texture,
  type vec3,
  type vec4,
} from '@gltf-transform/core';
import {
  EXTTextureWebP,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRTextureTransform,
  type Transform,
} from '@gltf-transform/extensions';
import { accessorOf } from '../mesh/glb.ts';
import { AnimationPointer } from './animation-pointer.ts';
import { encodeImage } from './encode-image.ts';

/** A place of a material's textures: how it is read, and the way to it. */
interface Place {
  readonly info: TextureInfo | null;
  readonly path: readonly string[];
}

const WRAPS = { repeat: 'REPEAT', mirror: 'MIRRORED_REPEAT', clamp: 'CLAMP_TO_EDGE' } as const;

/** What a property is at each key. */
interface Track {
  readonly type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4';
  readonly times: readonly number[];
  readonly values: readonly (readonly number[])[];
  readonly isStepped: boolean;
}
const TYPES = { 1: 'SCALAR', 2: 'VEC2', 3: 'VEC3', 4: 'VEC4' } as const;

/** Writes materials into a document, each once; textures that are the same, once for all. */
export class MaterialWriter {
  readonly #materials = new Map<GltfMaterial, Promise<Material>>();
  readonly #keys = new Map<GltfPicture, string>();
  readonly #textures = new Map<string, Promise<Texture>>();
  #plain: Material | undefined;
  readonly #animations = new Map<number, Animation>();
  readonly #times = new Map<string, Accessor>();

  constructor(
    readonly document: Document,
    readonly images: GltfImageType,
  ) {}

  material(of: GltfMaterial, name = of.name): Promise<Material> {
    let made = this.#materials.get(of);
    if (!made) this.#materials.set(of, (made = this.#write(of, name)));
    return made;
  }

  /** The animation of all that returns after so many seconds. */
  animation(seconds: number): Animation {
    let animation = this.#animations.get(seconds);
    if (!animation) {
      animation = this.document.createAnimation(`${String(Number(seconds.toFixed(3)))} seconds`);
      this.#animations.set(seconds, animation);
    }
    return animation;
  }

  /** Moments of keys, in seconds; the same ones once. */
  times(times: readonly number[]): Accessor {
    const key = times.join();
    let accessor = this.#times.get(key);
    if (!accessor) this.#times.set(key, (accessor = accessorOf(this.document, 'SCALAR', Float32Array.from(times))));
    return accessor;
  }

  /** What stands where no material is chosen. */
  plain(): Material {
    return (this.#plain ??= this.#create('Plain'));
  }

  /** A material with what the Stage takes where nothing is said. */
  #create(name: string): Material {
    return this.document
      .createMaterial(name)
      .setBaseColorFactor([0.18, 0.18, 0.18, 1])
      .setMetallicFactor(0)
      .setRoughnessFactor(0.6);
  }

  async #write(of: GltfMaterial, name: string): Promise<Material> {
    const { document } = this;
    const material = this.#create(name).setAlphaMode(of.alphaMode).setDoubleSided(of.isDoubleSided);
    if (of.isUnlit)
      material.setExtension('KHR_materials_unlit', document.createExtension(KHRMaterialsUnlit).createUnlit());
    const cutoff = of.numbers.get('cutoff');
    if (cutoff) {
      material.setAlphaCutoff(cutoff.keys[0]!.value[0]!);
      this.#animate(material, ['alphaCutoff'], trackOf(cutoff, [0]), of.seconds);
    }
    const refraction = of.numbers.get('refraction');
    if (refraction) {
      const ior = document.createExtension(KHRMaterialsIOR).createIOR().setIOR(refraction.keys[0]!.value[0]!);
      material.setExtension('KHR_materials_ior', ior);
      this.#animate(material, ['extensions', 'KHR_materials_ior', 'ior'], trackOf(refraction, [0]), of.seconds);
    }
    for (const [slot, value] of of.slots) await SLOTS[slot](this, material, value, of.seconds);
    return material;
  }

  /** Writes a factor: what it is at first, and its keys. */
  factor(
    material: Material,
    path: readonly string[],
    { factors }: GltfSlotValue,
    components: readonly number[],
    seconds: number,
    set: (value: readonly number[]) => unknown,
  ): void {
    const track = trackOf(factors, components);
    const [first] = track.values;
    set(first!);
    this.#animate(material, path, track, seconds);
  }

  /** Writes how a texture is read, and its keys. */
  texture(material: Material, { info, path }: Place, { texture }: GltfSlotValue, seconds: number): void {
    if (!texture || !info) return;
    const { wrap, filter, hasMipmaps, motion } = texture;
    info
      .setWrapS(TextureInfo.WrapMode[WRAPS[wrap[0]]]!)
      .setWrapT(TextureInfo.WrapMode[WRAPS[wrap[1]]]!)
      .setMagFilter(TextureInfo.MagFilter[filter === 'nearest' ? 'NEAREST' : 'LINEAR']!)
      .setMinFilter(
        TextureInfo.MinFilter[filter === 'nearest' ? 'NEAREST' : hasMipmaps ? 'LINEAR_MIPMAP_LINEAR' : 'LINEAR']!,
      );
    if (!motion) return;
    const [{ transform: first } = { transform: undefined }] = motion.keys;
    if (!first) return;
    const transform: Transform = this.document
      .createExtension(KHRTextureTransform)
      .createTransform()
      .setOffset([...first.offset])
      .setRotation(first.rotation)
      .setScale([...first.scale]);
    info.setExtension('KHR_texture_transform', transform);
    const times = motion.keys.map((k) => k.time);
    const keyed = (property: string, values: readonly (readonly number[])[]): void => {
      const type = TYPES[values[0]!.length as 1 | 2];
      const track: Track = { type, times, values, isStepped: motion.isStepped };
      this.#animate(material, [...path, 'extensions', 'KHR_texture_transform', property], track, seconds);
    };
    keyed(
      'offset',
      motion.keys.map((k) => k.transform.offset),
    );
    keyed(
      'rotation',
      motion.keys.map((k) => [k.transform.rotation]),
    );
    keyed(
      'scale',
      motion.keys.map((k) => k.transform.scale),
    );
  }

  /** The file's one texture with these pixels. */
  picture(name: string, { picture }: GltfTexture): Promise<Texture> {
    let key = this.#keys.get(picture);
    if (key === undefined) this.#keys.set(picture, (key = keyOf(picture)));
    let made = this.#textures.get(key);
    if (!made) {
      made = encodeImage(picture, this.images).then(({ bytes, mime }) => {
        if (mime === 'image/webp') this.document.createExtension(EXTTextureWebP).setRequired(true);
        return this.document.createTexture(name).setImage(bytes).setMimeType(mime);
      });
      this.#textures.set(key, made);
    }
    return made;
  }

  #animate(material: Material, path: readonly string[], track: Track, seconds: number): void {
    const { type, isStepped } = track;
    const keys = thinned(track);
    const [first] = keys;
    if (!first || keys.every(({ value }) => value.every((v, i) => v === first.value[i]))) return;
    const animation = this.animation(seconds);
    const sampler = this.document
      .createAnimationSampler()
      .setInput(this.times(keys.map((k) => k.time)))
      .setOutput(accessorOf(this.document, type, Float32Array.from(keys.flatMap((k) => k.value))))
      .setInterpolation(isStepped ? 'STEP' : 'LINEAR');
    const channel = this.document.createAnimationChannel().setSampler(sampler);
    this.document
      .createExtension(AnimationPointer)
      .aim(channel, { material, path, first: type === 'SCALAR' ? first.value[0]! : first.value });
    animation.addSampler(sampler).addChannel(channel);
  }
}

interface Key {
  readonly time: number;
  readonly value: readonly number[];
}

/** Keys as floats of 32 bits, without those that lie on the line between their neighbours. */
function thinned({ times, values, isStepped }: Track): Key[] {
  const keys = times.map((time, i) => ({ time, value: values[i]!.map(Math.fround) }));
  if (isStepped) return keys;
  const kept: Key[] = [];
  for (const [i, key] of keys.entries()) {
    const [before, next] = [kept.at(-1), keys[i + 1]];
    if (before && next) {
      const share = (key.time - before.time) / (next.time - before.time);
      const isOnLine = key.value.every((v, c) => {
        const line = before.value[c]! + (next.value[c]! - before.value[c]!) * share;
        return Math.abs(v - line) <= 2e-7 * Math.max(1, Math.abs(line));
      });
      if (isOnLine) continue;
    }
    kept.push(key);
  }
  return kept;
}

const keyOf = ({ width, height, data, isColor }: GltfPicture): string =>
  `${String(width)} ${String(height)} ${String(isColor)} ${createHash('sha256').update(data).digest('hex')}`;

/** Some components of keys. */
const trackOf = ({ keys }: ValueKeys, components: readonly number[]): Track => ({
  type: TYPES[components.length as 1 | 2 | 3 | 4],
  times: keys.map((k) => k.time),
  values: keys.map((k) => components.map((c) => k.value[c]!)),
  isStepped: false,
});

type WriteSlot = (writer: MaterialWriter, material: Material, value: GltfSlotValue, seconds: number) => Promise<void>;

/** How each slot is written. */
const SLOTS: Readonly<Record<GltfSlot, WriteSlot>> = {
  async baseColor(writer, material, value, seconds) {
    const path = ['pbrMetallicRoughness', 'baseColorTexture'];
    if (value.texture)
      material.setBaseColorTexture(await writer.picture(`${material.getName()} base colour`, value.texture));
    const factor = ['pbrMetallicRoughness', 'baseColorFactor'];
    writer.factor(material, factor, value, [0, 1, 2, 3], seconds, (v) => material.setBaseColorFactor(v as vec4));
    writer.texture(material, { info: material.getBaseColorTextureInfo(), path }, value, seconds);
  },
  async metallicRoughness(writer, material, value, seconds) {
    const path = ['pbrMetallicRoughness', 'metallicRoughnessTexture'];
    if (value.texture)
      material.setMetallicRoughnessTexture(
        await writer.picture(`${material.getName()} roughness and metal`, value.texture),
      );
    const factor = (name: string): string[] => ['pbrMetallicRoughness', name];
    writer.factor(material, factor('roughnessFactor'), value, [0], seconds, (v) => material.setRoughnessFactor(v[0]!));
    writer.factor(material, factor('metallicFactor'), value, [1], seconds, (v) => material.setMetallicFactor(v[0]!));
    writer.texture(material, { info: material.getMetallicRoughnessTextureInfo(), path }, value, seconds);
  },
  async normal(writer, material, value, seconds) {
    if (value.texture) material.setNormalTexture(await writer.picture(`${material.getName()} normal`, value.texture));
    const place = { info: material.getNormalTextureInfo(), path: ['normalTexture'] };
    writer.texture(material, place, value, seconds);
  },
  async emissive(writer, material, value, seconds) {
    if (value.texture)
      material.setEmissiveTexture(await writer.picture(`${material.getName()} emission`, value.texture));
    writer.factor(material, ['emissiveFactor'], value, [0, 1, 2], seconds, (v) =>
      material.setEmissiveFactor(v as vec3),
    );
    if (value.strength !== 1)
      material.setExtension(
        'KHR_materials_emissive_strength',
        writer.document
          .createExtension(KHRMaterialsEmissiveStrength)
          .createEmissiveStrength()
          .setEmissiveStrength(value.strength),
      );
    const place = { info: material.getEmissiveTextureInfo(), path: ['emissiveTexture'] };
    writer.texture(material, place, value, seconds);
  },
  async transmission(writer, material, value, seconds) {
    const transmission = writer.document.createExtension(KHRMaterialsTransmission).createTransmission();
    material.setExtension('KHR_materials_transmission', transmission);
    const path = ['extensions', 'KHR_materials_transmission'];
    if (value.texture)
      transmission.setTransmissionTexture(await writer.picture(`${material.getName()} transmission`, value.texture));
    writer.factor(material, [...path, 'transmissionFactor'], value, [0], seconds, (v) =>
      transmission.setTransmissionFactor(v[0]!),
    );
    const info = transmission.getTransmissionTextureInfo();
    writer.texture(material, { info, path: [...path, 'transmissionTexture'] }, value, seconds);
  },
};
