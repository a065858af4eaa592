import { PicturePlayer } from '../../viewport/picture-player.ts';
import { supplyOf } from '../../project/supply.ts';

/** Plays the examples of operations. */
export const examples = new PicturePlayer('ball');
/** Images of examples are the test grid. */
export const NO_SOURCES = supplyOf(() => []);
