import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { check, compileOrThrow, GridEvaluator, parse, WasmEvaluator, type Node } from '@estela/core';
import { coreBefore, filesBefore } from './before.ts';
import { median, type Pair } from './timing.ts';

const SIDE = 256;
const TURNS = 9;

/** What computes pictures, as bakes do. */
export const pictures = (roots: readonly Node[], width = SIDE): GridEvaluator | WasmEvaluator =>
  GridEvaluator.of(roots, () => undefined, { width }) ?? new WasmEvaluator(roots);

/** Milliseconds of processor time of this process. */
function cpu(work: () => void): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}

/** What a kernel takes against the state before, turn by turn: milliseconds of processor time a picture. */
export interface Kernel extends Pair {
  readonly material: string;
  /** The least and the greatest of the ratios. */
  readonly spread: readonly [number, number];
}

/** All outputs of each demo material at 256 x 256: as they are computed now, and as they were in their texts of then. */
export async function kernels(root: string): Promise<Kernel[]> {
  const before = await coreBefore(root);
  const old = join(filesBefore(root), 'demo/materials');
  return readdirSync(old)
    .filter((name) => name.endsWith('.wake'))
    .map((name) => {
      const now = compileOrThrow(check(parse(readFileSync(join(root, 'demo/materials', name), 'utf8'))));
      const own = pictures([...now.graph.outputs.values()]);
      const program = before.check(before.parse(readFileSync(join(old, name), 'utf8')));
      const { dials, switches } = before.settingValues(program);
      const then = new before.WasmEvaluator([...before.lower(program, switches).outputs.values()]);
      const turn = (i: number): [number, number] => [
        cpu(() => {
          own.setFrame({ time: i / 7, dials: now.values.dials });
          own.picture(SIDE, SIDE);
        }),
        cpu(() => {
          then.setFrame({ time: i / 7, dials });
          then.picture(SIDE, SIDE);
        }),
      ];
      // The engine compiles a module better once it has run for a while.
      for (let i = 0; i < 4; i++) turn(i);
      const turns = Array.from({ length: TURNS }, (_, i) => turn(i));
      const ratios = turns.map(([one, other]) => other / one);
      return {
        material: name.replace('.wake', ''),
        one: median(turns.map(([one]) => one)),
        other: median(turns.map(([, other]) => other)),
        ratio: median(ratios),
        spread: [Math.min(...ratios), Math.max(...ratios)] as const,
      };
    });
}
