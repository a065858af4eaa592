import { parentPort, workerData } from 'node:worker_threads';
import { check, compile, parse } from '@estela/core';
import { pictures } from './kernels.ts';

/** Computes frames of a material's colour at a size; says when it is ready, and when it is done. */
const { text, size, times } = workerData as { text: string; size: number; times: number[] };
const program = check(parse(text));
const evaluator = pictures([compile(program).graph.outputs.get('color')!], size);
const dials = new Map(program.dials.map((d) => [d.name, d.value]));
// The engine compiles a module better once it has run for a while.
for (const time of times.slice(0, 4)) {
  evaluator.setFrame({ time, dials });
  evaluator.picture(size, size);
}
parentPort!.postMessage('ready');
parentPort!.once('message', () => {
  for (const time of times) {
    evaluator.setFrame({ time, dials });
    evaluator.picture(size, size);
  }
  parentPort!.postMessage('done');
});
