import type { Program } from '../../check/program.ts';
import type { PixelImage } from '../../image/pixels.ts';
import type { Deflate } from '../png.ts';
import { codeOf, type CodeOptions } from './code.ts';
import { manifestOf } from './manifest.ts';
import { playerPage } from './player-page.ts';
import { previewOf } from './preview.ts';
import { readmeOf } from './readme.ts';
import { packageShaders } from './shaders.ts';
import { texturesOf, type PackageImage } from './textures.ts';

/** What the host of an export lends. */
export interface PackageHost {
  readonly deflate: Deflate;
  /** In hexadecimal. */
  readonly sha256: (bytes: Uint8Array) => string;
  readonly base64: (bytes: Uint8Array) => string;
  readonly utf8: (text: string) => Uint8Array;
  /** A PNG of 8 or 16 bits; for files that other programs read otherwise than Estela does. */
  readonly png: (pixels: PixelImage) => Uint8Array;
  /** The built page of packages/player. */
  readonly player: string;
}

export interface PackageOptions extends CodeOptions {
  /** By source name. Those that are not here are left out, and the manifest says so. */
  readonly images: ReadonlyMap<string, PackageImage>;
}

/** Files with the manifest that names them all. */
function withManifest<T>(
  files: Map<string, T>,
  name: string,
  manifest: (names: readonly string[]) => object,
  encode: (text: string) => T,
): Map<string, T> {
  const names = [...files.keys(), name].sort();
  return files.set(name, encode(`${JSON.stringify(manifest(names), undefined, 2)}\n`));
}

/**
 * A material as code for other programs, by file name: functions in each target, a complete stage in each shading
 * language, its text and a manifest. Throws where it has errors, limits included.
 */
export function packageCode(program: Program, options: CodeOptions): ReadonlyMap<string, string> {
  const shaders = packageShaders(program, options);
  const code = codeOf(program, options, shaders);
  // Whether its images are at hand does not matter here: the code names them.
  return withManifest(
    code,
    `${shaders[0].name.file}.json`,
    (names) => manifestOf(options, shaders, [], names),
    (text) => text,
  );
}

/**
 * A whole package, by file name: code, textures, a note, a moving picture and a page that plays it. The same bytes for the
 * same input. Throws where the material has errors, limits included.
 */
export function materialPackage(
  program: Program,
  options: PackageOptions,
  host: PackageHost,
): ReadonlyMap<string, Uint8Array> {
  const { deflate, utf8 } = host;
  const shaders = packageShaders(program, options);
  const [first] = shaders;
  const textures = texturesOf(program, options.images, host);
  const pixels = new Map<string, PixelImage>(options.images);
  const files = new Map<string, Uint8Array>();
  for (const [name, text] of codeOf(program, options, shaders)) files.set(name, utf8(text));
  for (const { file, bytes } of textures) if (file !== undefined) files.set(file, bytes);
  const preview = previewOf(first, ({ source }) => pixels.get(source), deflate);
  if (preview) files.set('preview.png', preview);
  const asExported = options.variant !== undefined || options.values !== undefined;
  files.set('index.html', utf8(playerPage(shaders, textures, { ...host, asExported })));
  files.set('README.md', utf8(readmeOf(options, shaders, textures, { preview: preview !== undefined })));
  return withManifest(files, `${first.name.file}.json`, (names) => manifestOf(options, shaders, textures, names), utf8);
}
