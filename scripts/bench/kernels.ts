import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  check,
  compileOrThrow,
  GridEvaluator,
  OPERATIONS,
  parse,
  rowsOf,
  WasmEvaluator,
  type Node,
  type Rows,
} from '@estela/core';
import { coreBefore, filesBefore } from './before.ts';
import { paired, processorTime, type Pair } from './timing.ts';

const SIDE = 256;
/** Frames that a bake has, of which each is timed. */
const FRAMES = 48;

/** What computes pictures of a bake. */
export const pictures = (roots: readonly Node[], width: number): Rows =>
  rowsOf(roots, () => undefined, { width, frames: FRAMES });

const textsIn = (folder: string): [name: string, text: string][] =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.wake'))
    .map((name) => [name.replace('.wake', ''), readFileSync(join(folder, name), 'utf8')]);

export interface Kernel extends Pair {
  readonly material: string;
}

/**
 * Milliseconds of processor time for a frame of all outputs of each demo material at 256 x 256: as they are computed now, and as
 * they were in their texts of then.
 */
export async function kernels(root: string): Promise<Kernel[]> {
  const before = await coreBefore(root);
  return textsIn(join(filesBefore(root), 'demo/materials')).map(([material, text]) => {
    const now = compileOrThrow(check(parse(readFileSync(join(root, 'demo/materials', `${material}.wake`), 'utf8'))));
    const own = pictures([...now.graph.outputs.values()], SIDE);
    const program = before.check(before.parse(text));
    const { dials, switches } = before.settingValues(program);
    const then = new before.WasmEvaluator([...before.lower(program, switches).outputs.values()]);
    let into: readonly Float32Array[] | undefined;
    const turn = (i: number): [number, number] => [
      processorTime(() => {
        own.setFrame({ time: i / 7, dials: now.values.dials });
        into = own.picture(SIDE, SIDE, into);
      }),
      processorTime(() => {
        then.setFrame({ time: i / 7, dials });
        then.picture(SIDE, SIDE);
      }),
    ];
    // The engine compiles a module better once it has run for a while.
    return { material, ...paired(11, turn, 4) };
  });
}

/** The same by the grid's code, against code for scattered pixels: of demo materials, starts and operations' examples. */
export function gridAgainstScattered(root: string): Kernel[] {
  const texts = [
    ...textsIn(join(root, 'demo/materials')),
    ...textsIn(join(root, 'demo/starts')),
    ...OPERATIONS.map(({ name, example }) => [name, example] as const),
  ];
  return texts.flatMap(([material, text]) => {
    const { graph, values } = compileOrThrow(check(parse(text)));
    const roots = [...graph.outputs.values()];
    const grid = GridEvaluator.of(roots, () => undefined, { width: SIDE, frames: FRAMES });
    if (!grid) return [];
    const scattered = new WasmEvaluator(roots, () => undefined);
    const turn = (i: number): [number, number] => {
      const frame = { time: i / 7, dials: values.dials };
      return [
        processorTime(() => {
          grid.setFrame(frame);
          for (let y = 0; y < SIDE; y++) grid.row((y + 0.5) / SIDE, y);
        }),
        processorTime(() => {
          scattered.setFrame(frame);
          scattered.grid(SIDE, SIDE, () => undefined);
        }),
      ];
    };
    return [{ material, ...paired(15, turn, 10) }];
  });
}
