import { parentPort, workerData } from 'node:worker_threads';
import { constants, deflateRawSync } from 'node:zlib';
import { bakeBand, Baker, check, parse, type DeflateBand } from '@estela/core';
import type { AskedBand, BakedBand, BakeJob } from './bake-job.ts';

const deflate: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { level: 6, finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

const { text, images, dials, switches, options, pictures, cells } = workerData as BakeJob;
const baker = Baker.of(check(parse(text)), { dials, switches }, options, (slot) => images.get(slot.name));
parentPort?.on('message', ({ index, place }: AskedBand) => {
  if (!baker) throw new Error('This material does not put this out.');
  const band = bakeBand(baker, pictures, place, deflate, cells);
  parentPort?.postMessage({ index, band } satisfies BakedBand, [band.bytes.buffer]);
});
