import { parentPort, workerData } from 'node:worker_threads';
import { deflateBand } from '@estela/codecs/files';
import { bakePlan, bandMaker, check, parse } from '@estela/core';
import type { BakedBand, BakeJob } from './bake-job.ts';

const { text, images, recipe } = workerData as BakeJob;
const program = check(parse(text));
const make = bandMaker(program, bakePlan(program, recipe), (slot) => images.get(slot.name), deflateBand);
parentPort?.on('message', (index: number) => {
  const band = make(index);
  parentPort?.postMessage({ index, band } satisfies BakedBand, [band.bytes.buffer]);
});
