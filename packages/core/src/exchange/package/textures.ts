import type { PixelImage } from '../../image/pixels.ts';
import type { Program } from '../../check/program.ts';
import type { PackageHost } from './package.ts';

/** An image that a material reads, as its host has it. */
export interface PackageImage extends PixelImage {
  /** The file as it came. */
  readonly bytes: Uint8Array;
  /** Its ending: png, jpg, webp, or another that is written as a PNG. */
  readonly type: string;
}

/** A texture of a package. */
export interface PackageTexture {
  readonly source: string;
  /** Placement in the package; undefined where it is missing, and was left out knowingly. */
  readonly file: string | undefined;
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16;
  readonly bytes: Uint8Array;
  /** In hexadecimal. */
  readonly sha256: string;
  /** Written as a PNG: the file that came is of a kind that others read otherwise. */
  readonly converted: boolean;
  readonly pixels: PixelImage | undefined;
  readonly type: string;
}

/** Kinds of file that every program reads as Estela does. */
const PLAIN = new Set(['png', 'jpg', 'webp']);

/** A source's name as that of a file, none of which is taken; names are told apart without regard to case. */
function fileName(source: string, type: string, taken: Set<string>): string {
  const plain =
    source
      .replace(/\.(png|jpe?g|webp|tga|gif)$/i, '')
      .replace(/[^\p{L}\p{N}._-]+/gu, '-')
      .replace(/^[.-]+|[.-]+$/g, '')
      .slice(0, 80) || 'texture';
  let name = `${plain}.${type}`;
  for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${plain}-${String(n)}.${type}`;
  taken.add(name.toLowerCase());
  return name;
}

/** The textures of a material: each source once, whatever names it is read by. */
export function texturesOf(
  { images }: Program,
  found: ReadonlyMap<string, PackageImage>,
  { sha256, png }: Pick<PackageHost, 'sha256' | 'png'>,
): PackageTexture[] {
  const taken = new Set<string>();
  return [...new Set(images.map((i) => i.source))].map((source): PackageTexture => {
    const image = found.get(source);
    if (!image)
      return {
        source,
        file: undefined,
        width: 0,
        height: 0,
        bits: 8,
        bytes: new Uint8Array(0),
        sha256: '',
        converted: false,
        pixels: undefined,
        type: '',
      };
    const converted = !PLAIN.has(image.type);
    const bytes = converted ? png(image) : image.bytes;
    const type = converted ? 'png' : image.type;
    return {
      source,
      file: `textures/${fileName(source, type, taken)}`,
      width: image.width,
      height: image.height,
      bits: image.data instanceof Uint16Array ? 16 : 8,
      bytes,
      sha256: sha256(bytes),
      converted,
      pixels: image,
      type,
    };
  });
}
