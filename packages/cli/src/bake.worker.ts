import { parentPort, workerData } from 'node:worker_threads';
import { Baker, check, parse } from '@estela/core';
import type { BakedFrame, BakeJob } from './bake-job.ts';

const { text, images, dials, switches, options, frames } = workerData as BakeJob;
const baker = Baker.of(check(parse(text)), { dials, switches }, options, (slot) => images.get(slot.name));
for (const frame of frames) {
  const data = baker?.frame(frame) ?? new Uint8Array();
  parentPort?.postMessage({ frame, data } satisfies BakedFrame, [data.buffer]);
}
