import { PHRASES } from '../../ops/phrases.ts';
import type { ImageSlot } from '../../ir/node.ts';
import { chainOf, written, type ReadMotion } from './read-motion.ts';
import { reasons } from '../../diagnostics/reasons.ts';

/** A texture of a material in a glTF file. */
export interface ReadTexture extends ReadMotion {
  /** Of the images of the file. */
  readonly image: number;
  readonly wrap: ImageSlot['wrap'];
  readonly filter: ImageSlot['filter'];
}

/** A material in a glTF file, as far as it is read here; what is left out of it, as sentences. */
export interface ReadMaterial {
  readonly name: string;
  /** Of the animation of its textures, in seconds; undefined where nothing moves. */
  readonly seconds: number | undefined;
  readonly isUnlit: boolean;
  readonly mode: 'opaque' | 'mask' | 'blend';
  readonly isDoubleSided: boolean;
  readonly cutoff: number;
  readonly baseColor: { readonly factor: readonly number[]; readonly texture?: ReadTexture | undefined };
  readonly roughness: number;
  readonly metallic: number;
  readonly metallicRoughness?: ReadTexture | undefined;
  readonly normal?: ReadTexture | undefined;
  readonly emissive: { readonly factor: readonly number[]; readonly texture?: ReadTexture | undefined };
  readonly notes: readonly string[];
}

/** Loop of what does not move, in seconds. */
const USUAL_SECONDS = 4;

/** A material's text, and what it does not say of the file, as sentences. */
export interface MaterialText {
  readonly text: string;
  readonly notes: readonly string[];
}

/**
 * Writes a material as Wake: its textures, read through `tile`, `turn`, `spin`, `offset` and `pan`. `names` are those of
 * the file's images among the sources of the project.
 */
export function gltfMaterialText(read: ReadMaterial, title: string, names: ReadonlyMap<number, string>): MaterialText {
  const seconds = read.seconds ?? USUAL_SECONDS;
  const writing = new Writing(seconds, names);
  const { isUnlit, mode } = read;
  const base = writing.read('base', read.baseColor.texture, 'color');
  const [r = 1, g = 1, b = 1, a = 1] = read.baseColor.factor;
  writing.out('color', times(base && `${base}.rgb`, vectorOf(r, g, b), [r, g, b]));
  if (mode !== 'opaque') writing.out('opacity', times(base && `${base}.a`, written(a), [a]));
  if (mode === 'mask') writing.out('cutoff', written(read.cutoff));
  if (!isUnlit) {
    const packed = writing.read('packed', read.metallicRoughness, 'data');
    writing.out('roughness', times(packed && `${packed}.g`, written(read.roughness), [read.roughness]));
    writing.out('metallic', times(packed && `${packed}.b`, written(read.metallic), [read.metallic]));
    const normal = writing.read('bumps', read.normal, 'normal');
    if (normal) writing.out('normal', `${normal}.xyz`);
    const glow = writing.read('glow', read.emissive.texture, 'color');
    const [er = 0, eg = 0, eb = 0] = read.emissive.factor;
    if (er + eg + eb > 0) writing.out('emissive', times(glow && `${glow}.rgb`, vectorOf(er, eg, eb), [er, eg, eb]));
  }
  const surface = `surface ${isUnlit ? 'unlit' : 'lit'} ${mode} ${read.isDoubleSided ? 'two-sided' : 'one-sided'}`;
  const text = [
    `material ${literalTitle(title)}`,
    `loop ${written(seconds)}s at 30fps`,
    surface,
    ...writing.images,
    '',
    ...writing.steps,
    ...(writing.steps.length > 0 ? [''] : []),
    ...writing.outputs,
    '',
  ].join('\n');
  return { text, notes: [...read.notes, ...writing.notes] };
}

/** A title between quotes; what would end it is left out. */
const literalTitle = (title: string): string => `"${title.replace(/["\n\r]/g, "'").slice(0, 200)}"`;
const vectorOf = (...parts: readonly number[]): string => `(${parts.map(written).join(', ')})`;

/** A value times a factor; without the factor where it is 1 throughout, and the factor alone where there is no value. */
const times = (value: string | undefined, factor: string, parts: readonly number[]): string =>
  value === undefined ? factor : parts.every((p) => written(p) === '1') ? value : `${value} * ${factor}`;

class Writing {
  readonly images: string[] = [];
  readonly steps: string[] = [];
  readonly outputs: string[] = [];
  readonly notes: string[] = [];
  /** Steps by what they read, so that what is the same is one. */
  readonly #places = new Map<string, string>();

  constructor(
    readonly seconds: number,
    readonly names: ReadonlyMap<number, string>,
  ) {}

  out(output: string, value: string): void {
    this.outputs.push(`out ${output} = ${value}`);
  }

  /** The name of a step that reads a texture; undefined where there is none. */
  read(name: string, texture: ReadTexture | undefined, encoding: ImageSlot['encoding']): string | undefined {
    const source = texture && this.names.get(texture.image);
    if (!texture || source === undefined) return undefined;
    const { calls, why } = chainOf(texture, this.seconds);
    if (why !== undefined) this.notes.push(reasons.firstFrame(source, why));
    this.images.push(`image ${name}_image = "${source}" ${texture.wrap} ${texture.filter} ${encoding}`);
    this.steps.push(`${name} = ${PHRASES.read(this.#place(name, calls), `${name}_image`)}`);
    return name;
  }

  #place(name: string, calls: readonly string[]): string {
    if (calls.length === 0) return 'uv';
    const chain = ['uv', ...calls].join(' |> ');
    const known = this.#places.get(chain);
    if (known !== undefined) return known;
    const place = `at_${name}`;
    this.#places.set(chain, place);
    this.steps.push(`${place} = ${chain}`);
    return place;
  }
}
