import { CHANNELS, type Channel } from '../check/program.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** One channel of a picture: a component of an output, or a value from 0 to 1 that is the same everywhere. */
export type PackPick = { readonly output: Channel; readonly component: number } | { readonly value: number };

/** What stands in red, green, blue and alpha. */
export type Pack = readonly [PackPick, PackPick, PackPick, PackPick];

/** Components of an output, by the letters they are picked by. A colour's alpha is what covers the surface. */
const LETTERS: Readonly<Record<Channel, string>> = {
  color: 'rgba',
  normal: 'xyz',
  metallic: '',
  roughness: '',
  emissive: 'rgba',
  opacity: '',
  cutoff: '',
  refraction: '',
};

/** Packings that have a name: `orm` is glTF's, occlusion 1 as Estela has none. */
const NAMED: Readonly<Record<string, string>> = { orm: 'r=1 g=roughness b=metallic' };

const part = (output: Channel, component: number): PackPick => ({ output, component });

/** An output by itself, as a picture shows it: three components and what covers, or grey. */
export const plainPack = (output: Channel): Pack => {
  const count = LETTERS[output].length;
  const alpha = count === 4 ? part(output, 3) : { value: 1 };
  return count === 0
    ? [part(output, 0), part(output, 0), part(output, 0), alpha]
    : [part(output, 0), part(output, 1), part(output, 2), alpha];
};

function readPick(text: string): PackPick | string {
  if (/^(0|1|0?\.\d+)$/.test(text)) return { value: Number(text) };
  const [name = '', letter, more] = text.split('.');
  const output = CHANNELS.find((c) => c === name);
  if (!output || more !== undefined) return reasons.notOutput(text, CHANNELS);
  const letters = LETTERS[output];
  if (letters === '') return letter === undefined ? part(output, 0) : reasons.singleNumber(output, letter);
  const component = letter?.length === 1 ? letters.indexOf(letter) : -1;
  if (component < 0) return reasons.whichChannel(output, [...letters]);
  return part(output, component);
}

/**
 * Reads a packing such as `r=color.r g=opacity b=emissive.r a=normal.x`, or a name. What is not said is 0, alpha 1. A
 * string is why it cannot be read.
 */
export function readPack(text: string): Pack | string {
  const picks: PackPick[] = [{ value: 0 }, { value: 0 }, { value: 0 }, { value: 1 }];
  const given = new Set<string>();
  const words = (NAMED[text.trim()] ?? text).split(/[\s,]+/).filter((w) => w !== '');
  if (words.length === 0) return reasons.emptyPack(Object.keys(NAMED));
  for (const word of words) {
    const [, channel = '', what = ''] = /^([rgba])=(.+)$/.exec(word) ?? [];
    if (channel === '') return reasons.notInPack(word);
    if (given.has(channel)) return reasons.setTwice(channel);
    given.add(channel);
    const pick = readPick(what);
    if (typeof pick === 'string') return pick;
    picks['rgba'.indexOf(channel)] = pick;
  }
  return picks as unknown as Pack;
}

/** Which outputs a packing reads, each once. */
export const outputsOf = (pack: Pack): Channel[] => [
  ...new Set(pack.flatMap((pick) => ('output' in pick ? [pick.output] : []))),
];

/** A pick as it is written. */
export const writtenPick = (pick: PackPick): string => {
  if ('value' in pick) return String(pick.value);
  const letter = LETTERS[pick.output][pick.component];
  return letter === undefined ? pick.output : `${pick.output}.${letter}`;
};

/** Whether a channel is stored as sRGB: colours are, but for their alpha and those that are kept as linear light. */
export const isSrgb = (pick: PackPick, linear: readonly Channel[] = []): boolean =>
  'output' in pick && isColor(pick.output) && pick.component < 3 && !linear.includes(pick.output);

/** Whether an output is a colour, which is stored as sRGB unless something else is asked for. */
export const isColor = (output: Channel): boolean => LETTERS[output] === 'rgba';
