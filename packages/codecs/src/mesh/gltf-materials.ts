import type { ReadMaterial, ReadMotion, ReadTexture, ReadTrack } from '@estela/core';
import { BufferUtils } from '@gltf-transform/core';
import { readHeader, type ImageType } from '../header.ts';
import { ImageRefused } from '../limits.ts';
import { documentOf, nameIn, withGltf, type OpenGltf } from './glb.ts';
import { Accessors } from './gltf-accessors.ts';
import { at, broken, fail, isPart, missing, partsIn, whole, type Part } from './gltf-part.ts';
import { versionOf } from './gltf-scene.ts';
import { lacksFile } from './limits.ts';
import { flaws, notes } from '../wording.ts';

/** An image of a glTF file. */
export interface GltfImage {
  /** With an ending. */
  readonly name: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}
/** Materials of a glTF file that have textures or change with time, and the images they read, by number. */
export interface GltfLooks {
  readonly materials: readonly ReadMaterial[];
  readonly images: ReadonlyMap<number, GltfImage>;
  readonly notes: readonly string[];
}

/** Most materials that are read of one file. */
const MATERIAL_LIMIT = 200;
/** Most keys of one track. */
const KEY_LIMIT = 20_000;

const WRAPS: Readonly<Record<number, ReadTexture['wrap']>> = { 10497: 'repeat', 33648: 'mirror', 33071: 'clamp' };
const MODES: ReadonlyMap<unknown, ReadMaterial['mode']> = new Map([
  ['OPAQUE', 'opaque'],
  ['MASK', 'mask'],
  ['BLEND', 'blend'],
]);
const NEAREST: ReadonlySet<unknown> = new Set([9728]);

/** What of the properties that KHR_animation_pointer may name is read: the way to a texture's transform. */
const TEXTURE_WAY =
  /^\/materials\/(\d{1,6})\/(pbrMetallicRoughness\/baseColorTexture|pbrMetallicRoughness\/metallicRoughnessTexture|normalTexture|emissiveTexture)\/extensions\/KHR_texture_transform\/(offset|rotation|scale)$/;

/**
 * Reads the materials of a glTF 2.0 file, as JSON or GLB, with the motion that KHR_animation_pointer gives their textures
 * through KHR_texture_transform. Throws MeshRefused for what is broken or beyond a limit.
 */
export const readGltfMaterials = (
  bytes: Uint8Array,
  beside: ReadonlyMap<string, Uint8Array> = new Map(),
): Promise<GltfLooks> => withGltf(bytes, beside, (file) => new Reading(file, beside).read());

/** A channel that moves a texture: accessors of its keys by number. */
interface Channel {
  readonly input: number;
  readonly output: number;
  readonly isStepped: boolean;
}

class Reading {
  readonly #json: Part;
  readonly #accessors: Accessors;
  readonly #notes = new Set<string>();
  /** By material and way. */
  readonly #channels = new Map<string, Channel>();
  readonly #ownNotes = new Map<number, Set<string>>();
  readonly #images = new Map<number, GltfImage>();
  readonly #names = new Set<string>();

  constructor(
    readonly file: OpenGltf,
    readonly beside: ReadonlyMap<string, Uint8Array>,
  ) {
    this.#json = file.json;
    this.#accessors = new Accessors(
      file.json,
      file.buffers.map((b) => b.length),
    );
  }

  async read(): Promise<GltfLooks> {
    const version = versionOf(this.#json);
    const materials = partsIn(this.#json, 'materials');
    for (const animation of partsIn(this.#json, 'animations')) this.#animation(animation, materials.length);
    const document = await documentOf(this.#accessors.json(version), this.file.buffers);
    const accessors = document.getRoot().listAccessors();
    const track = ({ input, output, isStepped }: Channel): ReadTrack => {
      const elements = (number: number): number[][] =>
        Array.from({ length: accessors[number]!.getCount() }, (_, i) => [...accessors[number]!.getElement(i, [])]);
      return trackOf(elements(input).flat(), elements(output), isStepped);
    };
    const tracks = new Map([...this.#channels].map(([way, channel]) => [way, track(channel)]));
    if (materials.length > MATERIAL_LIMIT) this.#notes.add(notes.manyMaterials(materials.length, MATERIAL_LIMIT));
    const read = materials
      .slice(0, MATERIAL_LIMIT)
      .map((material, i) => this.#material(material, i, tracks))
      .filter(({ baseColor, metallicRoughness, normal, emissive }) =>
        [baseColor.texture, metallicRoughness, normal, emissive.texture].some((t) => t !== undefined),
      );
    return { materials: read, images: this.#images, notes: [...this.#notes] };
  }

  /** Keeps what an animation does to textures; what it does otherwise is said. */
  #animation(animation: Part, materials: number): void {
    const samplers = partsIn(animation, 'samplers');
    for (const { sampler, target } of partsIn(animation, 'channels')) {
      if (!isPart(target)) throw broken(flaws.noTarget);
      const extensions = isPart(target.extensions) ? target.extensions : {};
      const own = extensions.KHR_animation_pointer;
      if (!isPart(own)) {
        if (target.node !== undefined) this.#notes.add(notes.nodesAtRest);
        continue;
      }
      const { pointer } = own;
      if (typeof pointer !== 'string' || !pointer.startsWith('/') || pointer.length > 1000)
        throw broken(flaws.wrongTarget);
      const [, number] = /^\/materials\/(\d{1,6})\//.exec(pointer) ?? [];
      if (number === undefined) {
        this.#notes.add(notes.animationNotImported(pointer.split('/')[1] ?? 'it'));
        continue;
      }
      if (Number(number) >= materials) throw broken(flaws.noSuchMaterial);
      const [, , texture, property] = TEXTURE_WAY.exec(pointer) ?? [];
      if (texture === undefined || property === undefined) {
        this.#say(Number(number), notes.animatedNotImported(pointer.split('/').at(-1) ?? ''));
        continue;
      }
      this.#channel(`${number} ${texture} ${property}`, at(samplers, sampler, 'a sampler'), property);
    }
  }

  #channel(way: string, { input, output, interpolation = 'LINEAR' }: Part, property: string): void {
    if (interpolation === 'CUBICSPLINE') {
      this.#say(Number(way.split(' ')[0]), notes.splinesNotImported(property));
      return;
    }
    if (interpolation !== 'LINEAR' && interpolation !== 'STEP') throw broken(flaws.interpolation);
    const channel = {
      input: this.#accessors.keep(input, ['SCALAR']),
      output: this.#accessors.keep(output, [property === 'rotation' ? 'SCALAR' : 'VEC2']),
      isStepped: interpolation === 'STEP',
    };
    const [times, values] = [this.#accessors.count(channel.input), this.#accessors.count(channel.output)];
    if (times === 0 || times !== values) throw broken(flaws.unequalKeys);
    if (times > KEY_LIMIT) throw broken(flaws.manyKeys(KEY_LIMIT));
    this.#channels.set(way, channel);
  }

  #say(material: number, note: string): void {
    const notes = this.#ownNotes.get(material) ?? new Set();
    this.#ownNotes.set(material, notes.add(note));
  }

  #material(part: Part, number: number, tracks: ReadonlyMap<string, ReadTrack>): ReadMaterial {
    const pbr = isPart(part.pbrMetallicRoughness) ? part.pbrMetallicRoughness : {};
    const extensions = isPart(part.extensions) ? part.extensions : {};
    const texture = (info: unknown, way: string): ReadTexture | undefined =>
      info === undefined ? undefined : this.#texture(info, number, way, tracks);
    const strength = isPart(extensions.KHR_materials_emissive_strength)
      ? numberOf(extensions.KHR_materials_emissive_strength.emissiveStrength, 1)
      : 1;
    const emissive = numbersOf(part.emissiveFactor, [0, 0, 0]).map((v) => v * strength);
    const all = [...tracks].filter(([way]) => way.startsWith(`${String(number)} `));
    const seconds = Math.max(0, ...all.map(([, track]) => track.times.at(-1)!));
    for (const name of Object.keys(extensions).filter((n) => !READ.has(n)))
      this.#say(number, notes.extensionNotImported(name.slice(0, 80)));
    if (part.occlusionTexture !== undefined) this.#say(number, notes.noOcclusion);
    return {
      name:
        typeof part.name === 'string' && part.name.trim() !== ''
          ? part.name.slice(0, 200)
          : `Material ${String(number + 1)}`,
      seconds: seconds > 0 ? seconds : undefined,
      isUnlit: extensions.KHR_materials_unlit !== undefined,
      mode: MODES.get(part.alphaMode ?? 'OPAQUE') ?? fail(broken(flaws.alphaMode)),
      isDoubleSided: part.doubleSided === true,
      cutoff: numberOf(part.alphaCutoff, 0.5),
      baseColor: {
        factor: numbersOf(pbr.baseColorFactor, [1, 1, 1, 1]),
        texture: texture(pbr.baseColorTexture, 'pbrMetallicRoughness/baseColorTexture'),
      },
      roughness: numberOf(pbr.roughnessFactor, 1),
      metallic: numberOf(pbr.metallicFactor, 1),
      metallicRoughness: texture(pbr.metallicRoughnessTexture, 'pbrMetallicRoughness/metallicRoughnessTexture'),
      normal: texture(part.normalTexture, 'normalTexture'),
      emissive: { factor: emissive, texture: texture(part.emissiveTexture, 'emissiveTexture') },
      notes: [...(this.#ownNotes.get(number) ?? [])],
    };
  }

  #texture(
    info: unknown,
    material: number,
    way: string,
    tracks: ReadonlyMap<string, ReadTrack>,
  ): ReadTexture | undefined {
    if (!isPart(info)) throw broken(flaws.textureReference);
    const texture = at(partsIn(this.#json, 'textures'), info.index, 'a texture');
    const webp = isPart(texture.extensions) ? texture.extensions.EXT_texture_webp : undefined;
    const source = isPart(webp) ? webp.source : texture.source;
    if (source === undefined) {
      this.#say(material, notes.textureFormat);
      return undefined;
    }
    const image = whole(source, 'the number of an image');
    if (!this.#image(image)) return undefined;
    const sampler =
      texture.sampler === undefined ? {} : at(partsIn(this.#json, 'samplers'), texture.sampler, 'a sampler');
    const [s, t] = [sampler.wrapS, sampler.wrapT].map((w) => WRAPS[numberOf(w, 10497)] ?? fail(broken(flaws.wrapMode)));
    if (s !== t) this.#say(material, notes.twoWraps);
    if (numberOf(info.texCoord, 0) !== 0) this.#say(material, notes.secondUvs);
    const extension = isPart(info.extensions) ? info.extensions.KHR_texture_transform : undefined;
    const own = isPart(extension) ? extension : {};
    const pair = (value: unknown, otherwise: readonly [number, number]): readonly [number, number] =>
      numbersOf(value, otherwise) as unknown as readonly [number, number];
    const track = (property: string): ReadTrack | undefined => tracks.get(`${String(material)} ${way} ${property}`);
    const motion: ReadMotion = {
      transform: {
        offset: pair(own.offset, [0, 0]),
        rotation: numberOf(own.rotation, 0),
        scale: pair(own.scale, [1, 1]),
      },
      offset: track('offset'),
      rotation: track('rotation'),
      scale: track('scale'),
    };
    return { ...motion, image, wrap: s!, filter: NEAREST.has(sampler.magFilter) ? 'nearest' : 'linear' };
  }

  /** Reads an image once; false where it is of a kind that is not taken. */
  #image(number: number): boolean {
    if (this.#images.has(number)) return true;
    const part = at(partsIn(this.#json, 'images'), number, 'an image');
    const bytes = this.#bytes(part);
    let type: ImageType;
    try {
      ({ type } = readHeader(bytes));
    } catch (error) {
      if (!(error instanceof ImageRefused)) throw error;
      this.#notes.add(notes.imageLeftOut(number + 1, error.message));
      return false;
    }
    const given =
      typeof part.name === 'string'
        ? part.name
        : typeof part.uri === 'string' && !part.uri.startsWith('data:')
          ? nameIn(part.uri)
          : '';
    const stem =
      given
        .replace(/\.\w{1,5}$/, '')
        .replace(/["\n\r/\\]/g, ' ')
        .trim()
        .slice(0, 120) || `image ${String(number + 1)}`;
    let name = `${stem}.${type}`;
    for (let n = 2; this.#names.has(name); n++) name = `${stem} ${String(n)}.${type}`;
    this.#names.add(name);
    this.#images.set(number, { name, bytes });
    return true;
  }

  #bytes({ bufferView, uri }: Part): Uint8Array<ArrayBuffer> {
    if (typeof uri === 'string') {
      const bytes = uri.startsWith('data:') ? BufferUtils.createBufferFromDataURI(uri) : this.beside.get(nameIn(uri));
      return new Uint8Array(bytes ?? fail(lacksFile(uri.slice(0, 200))));
    }
    const { buffer, start, end } = this.#accessors.bytesOf(bufferView);
    return new Uint8Array((this.file.buffers[buffer] ?? fail(missing('a buffer'))).subarray(start, end));
  }
}

/** Extensions of a material that are read here. */
const READ: ReadonlySet<string> = new Set(['KHR_materials_unlit', 'KHR_materials_emissive_strength']);

/** A number that a text can hold, and a pixel too. */
const isNumber = (value: unknown): value is number => typeof value === 'number' && Math.abs(value) <= 1e6;

function numberOf(value: unknown, otherwise: number): number {
  if (value === undefined) return otherwise;
  return isNumber(value) ? value : fail(broken(flaws.materialNumber));
}

function numbersOf(value: unknown, otherwise: readonly number[]): readonly number[] {
  if (value === undefined) return otherwise;
  if (!Array.isArray(value) || value.length !== otherwise.length) throw broken(flaws.factorLength);
  return value.map((v) => numberOf(v, 0));
}

/** Keys whose moments rise, from numbers that are some. */
function trackOf(times: readonly number[], values: readonly (readonly number[])[], isStepped: boolean): ReadTrack {
  if (!times.every((t, i) => isNumber(t) && t >= 0 && (i === 0 || t > times[i - 1]!))) throw broken(flaws.timesFall);
  if (!values.every((value) => value.every(isNumber))) throw broken(flaws.animationNumber);
  return { times, values, isStepped };
}
