import { execFileSync, spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { compile } from '@estela/core';
import { createNoise3D } from 'simplex-noise';
import { pictures } from './kernels.ts';
import { oneNoise } from './materials.ts';
import { paired, processorTime, type Pair } from './timing.ts';

const SIDE = 256;
const CELLS = 64;
/** 30 degrees. */
const TURN = Math.PI / 6;
const TURNS = 15;

/** Milliseconds of processor time that a picture of one octave takes; on the rows of its lattice or turned. */
function picture(turned: boolean): () => number {
  const evaluator = pictures([compile(oneNoise(CELLS, turned)).graph.steps.at(-2)!], SIDE);
  let into: readonly Float32Array[] | undefined;
  let frame = 0;
  return () =>
    processorTime(() => {
      evaluator.setFrame({ time: frame++ / 30, dials: new Map() });
      into = evaluator.picture(SIDE, SIDE, into);
    });
}

/** Against the simplex-noise package's 3D noise, turn by turn. */
export function noiseTimes(): Pair {
  const own = picture(false);
  let state = 1;
  const noise = createNoise3D(() => (state = (state * 16807) % 2147483647) / 2147483647);
  const values = new Float32Array(SIDE * SIDE);
  const other = (): number =>
    processorTime(() => {
      for (let y = 0; y < SIDE; y++)
        for (let x = 0; x < SIDE; x++) values[y * SIDE + x] = noise((x / SIDE) * CELLS, (y / SIDE) * CELLS, 0.65);
    });
  return paired(25, () => [own(), other()], 4);
}

/** Widths of vectors that the anchor is built for. */
const WIDTHS = { SSE4: [4, '-msse4.2'], AVX2: [8, '-mavx2'] } as const;
export type Native = keyof typeof WIDTHS;

/** Against the same formula in native code of a width, turn by turn; undefined where there is no clang. */
export function nativeTimes(root: string, native: Native, turned: boolean): Pair | undefined {
  if (spawnSync('clang', ['--version']).status !== 0) return undefined;
  const program = join(root, '.cache/bench', `noise-${native}`);
  const [width, flag] = WIDTHS[native];
  const source = join(root, 'scripts/bench/native/noise.c');
  execFileSync('clang', ['-O3', flag, '-ffp-contract=off', `-DW=${String(width)}`, source, '-o', program, '-lm']);
  const own = picture(turned);
  const args = [SIDE, CELLS, turned ? TURN : 0, 20].map(String);
  const other = (): number => (Number(execFileSync(program, args, { encoding: 'utf8' })) * SIDE * SIDE) / 1e6;
  // Several of ours, as of the other's frames.
  const ours = (): number => Array.from({ length: 20 }, own).reduce((sum, time) => sum + time, 0) / 20;
  return paired(TURNS, () => [ours(), other()], 2);
}
