import type { Term } from './terms.ts';

/**
 * What things take, in instructions of four pixels: by this the passes choose. A pass is used where it takes less, by what
 * stands here, than doing without it; so a material never costs more with all of them than with none.
 */

/** Taking the addresses of four entries out of a vector. */
export const ADDRESSES = 5;
/** Looking up four values for four pixels: the loads, and turning them. */
export const GROUP = 12;
/** A value that goes through memory from one loop to another. */
export const CROSSING = 2;
/** A value of another frame: its plane seldom lies in the nearest cache. */
export const KEPT_PLANE = 6;
/** Something must be saved for something to be done. */
export const WORTH = 0.9;

/**
 * Pixels from which a grid's code pays: making it takes 5 to 50 ms more than code for scattered pixels, and saves 30 to 170 ns a
 * pixel, the more the more there is to make. Measured on the demo materials.
 */
export const MAKING_PIXELS = 200_000;

/** Of a term itself. */
export function costOf({ op, args }: Term): number {
  switch (op) {
    case 'lane':
    case 'bitcast':
      return 0;
    case 'sample':
      return args.length === 2 ? 30 : 100;
    case 'mix':
    case 'fract':
    case 'clamp':
    case 'mod':
    case 'select':
      return 3;
    case 'div':
    case 'sqrt':
      return 5;
    default:
      return 1;
  }
}

export const costOfAll = (terms: Iterable<Term>): number => {
  let sum = 0;
  for (const term of terms) sum += costOf(term);
  return sum;
};
