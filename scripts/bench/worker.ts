import { parentPort, workerData } from 'node:worker_threads';
import { check, compile, parse } from '@estela/core';
import { pictures } from './kernels.ts';

/** Computes frames of a material's colour at a size, each time that it is asked; says when it is ready, and when it is done. */
const { text, size, times } = workerData as { text: string; size: number; times: number[] };
const program = check(parse(text));
const evaluator = pictures([compile(program).graph.outputs.get('color')!], size);
const dials = new Map(program.dials.map((d) => [d.name, d.value]));
let into: readonly Float32Array[] | undefined;
const bake = (some: readonly number[]): void => {
  for (const time of some) {
    evaluator.setFrame({ time, dials });
    into = evaluator.picture(size, size, into);
  }
};
// The engine compiles a module better once it has run for a while.
bake(times.slice(0, 4));
parentPort!.postMessage('ready');
parentPort!.on('message', () => {
  bake(times);
  parentPort!.postMessage('done');
});
