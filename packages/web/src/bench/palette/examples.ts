import { PicturePlayer } from '../../shelf/picture-player.ts';
import { supplyOf } from '../../sources/supply.ts';

/** Plays the examples of operations. */
export const examples = new PicturePlayer('ball');
/** Images of examples are the test grid. */
export const NO_SOURCES = supplyOf(() => []);
