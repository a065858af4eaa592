/** A piece of code, and what it is. */
export interface Piece {
  readonly text: string;
  readonly kind: 'comment' | 'number' | 'word' | 'type' | 'string' | 'plain';
}

const WORDS =
  'struct|uniform|in|out|return|if|else|for|while|const|static|inline|void|typedef|var|let|fn|import|export|function|readonly|interface|declare|precision|highp|cbuffer|layout|discard|select|true|false|null';
const TYPES =
  'bool|int|uint|float|double|[iu]?vec[234](?:<[fiu]32>)?|mat[234]|[fiu]32|float[234]|u?int[234]|u?int32_t|sampler2D|sampler|texture_2d<f32>|Texture2D|SamplerState|number|string|boolean';
const PATTERN = new RegExp(
  [
    String.raw`(?<comment>\/\/[^\n]*|\/\*[^]*?\*\/|^#[^\n]*)`,
    String.raw`(?<string>"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*')`,
    String.raw`(?<number>\b(?:0x[\da-f]+|\d+(?:\.\d*)?(?:e[+-]?\d+)?|\.\d+)[uf]?\b)`,
    String.raw`\b(?<type>${TYPES})\b`,
    String.raw`\b(?<word>${WORDS})\b`,
  ].join('|'),
  'gim',
);

/** Tells code of any of the languages of a package apart; whatever it does not know is plain. */
export function piecesOf(code: string): Piece[] {
  const pieces: Piece[] = [];
  let end = 0;
  for (const match of code.matchAll(PATTERN)) {
    if (match.index > end) pieces.push({ text: code.slice(end, match.index), kind: 'plain' });
    const [kind] = Object.entries(match.groups as Record<string, string | undefined>).find(
      ([, text]) => text !== undefined,
    ) ?? ['plain'];
    pieces.push({ text: match[0], kind: kind as Piece['kind'] });
    end = match.index + match[0].length;
  }
  if (end < code.length) pieces.push({ text: code.slice(end), kind: 'plain' });
  return pieces;
}
