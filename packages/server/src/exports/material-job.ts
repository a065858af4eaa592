import { nodeDecoder, packageImage } from '@estela/codecs/node';
import { check, parse, type PackageImage, type Program } from '@estela/core';
import { why } from '../http/wording.ts';

/** A material on its way out, with its images. */
export interface MaterialJob {
  readonly text: string;
  readonly variant?: string | undefined;
  readonly leaveOutMissing: boolean;
  /** Files by the names that the text reads them by. */
  readonly images: ReadonlyMap<string, Uint8Array>;
}

/** Why something is not written: a sentence, and the images that are missing, if that is why. */
export interface Refused {
  readonly refused: string;
  readonly missing?: readonly string[];
}

const decoder = nodeDecoder();

/** Reads image files by name. Throws ImageRefused where one cannot be read. */
export async function readImages(files: ReadonlyMap<string, Uint8Array>): Promise<ReadonlyMap<string, PackageImage>> {
  const images = new Map<string, PackageImage>();
  for (const [name, bytes] of files) images.set(name, await packageImage(decoder, bytes));
  return images;
}

/** Checks a material that is to be written; what only expanding can tell, limits, is not looked at. */
export function readProgram({ text, variant, leaveOutMissing, images }: MaterialJob): Program | Refused {
  const program = check(parse(text));
  const [error] = program.diagnostics.filter((d) => d.severity === 'error');
  if (error) return { refused: why.hasErrors(error.message) };
  if (variant !== undefined && !program.variants.some((v) => v.name === variant))
    return { refused: why.noSuchVariant(variant) };
  const missing = [...new Set(program.images.map((i) => i.source))].filter((source) => !images.has(source));
  if (missing.length > 0 && !leaveOutMissing) return { refused: why.imagesMissing(missing), missing };
  return program;
}

/** What was thrown, as a sentence: limits, which only expanding can tell. */
export const reason = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown));
