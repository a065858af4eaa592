import { lineAndColumn, type TextEdit } from '../diagnostics/diagnostic.ts';
import type { ImageDeclaration, Program, Step, Typed } from '../check/program.ts';
import { expressionsOf } from '../check/walk.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Which channel of a source now lies in which channel of the packed one. */
export interface ChannelMove {
  readonly source: string;
  /** 0 red to 3 alpha. */
  readonly from: number;
  readonly to: number;
}

/** Edits that move a material's reads to a packed image, or why they cannot be moved. */
export type MovedReads =
  { readonly edits: readonly TextEdit[]; readonly images: readonly string[] } | { readonly reason: string };

const LETTERS = ['rgba', 'xyzw'] as const;

/**
 * Moves the reads of the sources of `moves` in a material to the image `packed`: the lines of its images name it, as
 * data,
 * and each channel read of them is the one it has become. Images that are then alike become one, so that their reads
 * at one place become one read. It is all or nothing: a material that uses more of an image than was packed stays as it
 * is.
 */
export function moveReads(program: Program, packed: string, moves: readonly ChannelMove[]): MovedReads {
  const sources = new Set(moves.map((m) => m.source));
  const images = program.images.filter((i) => sources.has(i.source));
  if (images.length === 0) return { reason: reasons.usesNone };
  if (!program.ok) return { reason: reasons.textErrors };
  const { text } = program.tree;
  const line = (at: number): number => lineAndColumn(text, at).line;
  const edits: TextEdit[] = [];
  const all = expressionsOf(program);

  /** The image whose sample an expression is, as it is or by the name of the step that holds it. */
  const sampled = (typed: Typed): ImageDeclaration | undefined => {
    if (typed.kind === 'step') return typed.step.off ? undefined : sampled(typed.step.value);
    if (typed.kind !== 'call' || typed.operation.family !== 'sampling') return undefined;
    const image = typed.args.get('image');
    return image?.kind === 'image' ? images.find((i) => i.name === image.image.name) : undefined;
  };
  const isAlias = (typed: Typed, parent: Typed | undefined, step: Step | undefined): boolean =>
    parent === undefined && step?.kind === 'step' && step.value === typed;

  for (const { typed, parent, step } of all) {
    const image = sampled(typed);
    if (!image || isAlias(typed, parent, step)) continue;
    if (parent?.kind !== 'swizzle') return { reason: reasons.wholeImage(line(typed.from), image.name) };
    const letters = text.slice(parent.to - parent.indices.length, parent.to);
    const alphabet = LETTERS.find((l) => l.includes(letters[0] ?? '')) ?? 'rgba';
    const moved = parent.indices.map((from) => moves.find((m) => m.source === image.source && m.from === from));
    const missing = parent.indices.find((_, i) => !moved[i]);
    if (missing !== undefined)
      return {
        reason: reasons.notPacked(line(parent.from), image.name, alphabet[missing] ?? ''),
      };
    // An alpha is stored as it is; colours are not.
    if (image.encoding !== 'data' && parent.indices.some((i) => i !== 3))
      return {
        reason: reasons.notData(image.name, image.encoding),
      };
    const insert = moved.map((m) => alphabet[m?.to ?? 0]).join('');
    if (insert !== letters) edits.push({ from: parent.to - parent.indices.length, to: parent.to, insert });
  }

  const kept = new Map<string, ImageDeclaration>();
  for (const image of images) {
    const like = `${image.wrap} ${image.filter}`;
    const first = kept.get(like);
    if (first) {
      const end = text.indexOf('\n', image.span.to);
      edits.push({ from: image.span.from, to: end === -1 ? text.length : end + 1, insert: '' });
      for (const { typed } of all)
        if (typed.kind === 'image' && typed.image.name === image.name)
          edits.push({ from: typed.from, to: typed.to, insert: first.name });
      continue;
    }
    kept.set(like, image);
    edits.push({ ...image.sourceSpan, insert: `"${packed}"` });
    const word = /\b(?:color|data|normal)\b/.exec(text.slice(image.sourceSpan.to, image.span.to));
    const at = image.sourceSpan.to + (word?.index ?? 0);
    if (!word) edits.push({ from: image.span.to, to: image.span.to, insert: ' data' });
    else if (word[0] !== 'data') edits.push({ from: at, to: at + word[0].length, insert: 'data' });
  }
  return { edits, images: images.map((i) => i.name) };
}
