import type { Remote } from 'comlink';
import type { PixelWork } from './pixels.worker.ts';
import { remotely } from './remote.ts';
import { reading } from './textures.ts';

type Use = 'sources' | 'import';
const start = (use: Use) =>
  remotely<PixelWork>(
    () => new Worker(new URL('./pixels.worker.ts', import.meta.url), { type: 'module', name: `pixels for ${use}` }),
    reading(0),
  );
/** Each use has a worker of its own, so that a long import never holds up the pictures. */
const workers = { sources: start('sources'), import: start('import') };

/** A worker for pixels. */
export const pixels = (use: Use): Remote<PixelWork> => workers[use].work();

/** Ends what a worker is at; the next question starts another. Promises of the old one stay open for ever. */
export const stopPixels = (use: Use): void => {
  workers[use].stop();
};
