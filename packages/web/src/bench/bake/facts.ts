import { memoryOf, type BakePlan } from '@estela/core';
import { bytesWords } from '../../project/bake-words.ts';

const counted = (count: number, one: string): string => `${String(count)} ${one}${count === 1 ? '' : 's'}`;

/** What comes of a plan, in some lines: sizes, how fast it plays, and the memory it takes on a graphics card. */
export function factsOf({ recipe, files, frames, rate, closes, pictures, loop }: BakePlan): string[] {
  const [first] = files;
  const memory = files.map((file) => memoryOf(file, recipe.bits ?? 8));
  const sum = (of: 'plain' | 'bc7'): string => bytesWords(memory.reduce((total, m) => total + m[of], 0));
  const size = `${String(first!.width)} x ${String(first!.height)} px`;
  const { columns } = pictures[0]!;
  const layout =
    recipe.format === 'sheet'
      ? `${size}, ${String(columns)} x ${String(Math.ceil(frames.length / columns))} frames`
      : `${counted(frames.length, 'frame')} of ${size}`;
  return [
    files.length > 1 && recipe.format === 'sheet' ? `${counted(files.length, 'sheet')} of ${layout}` : layout,
    rate === undefined
      ? 'not evenly spaced'
      : `${String(Number(rate.toFixed(3)))} frames per second, ${closes ? `a loop of ${String(loop.seconds)} s` : 'not a whole loop: the last frame does not lead to the first'}`,
    ...(recipe.format === 'sheet' ? [`memory ${sum('plain')}, as BC7 or ASTC 4x4 ${sum('bc7')}`] : []),
  ];
}
