import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  check,
  compile,
  emitShader,
  GLSL,
  parse,
  Proof,
  provenVerdicts,
  WasmEvaluator,
  type Graph,
} from '@estela/core';
import { chromium } from '@playwright/test';
import { bakeMemory, bakeWall } from './bakes.ts';
import { BEFORE } from './before.ts';
import { drawingTimes } from './drawing.ts';
import { instructionRatios } from './instructions.ts';
import { gridAgainstScattered, kernels } from './kernels.ts';
import { chain } from './materials.ts';
import { nativeTimes, noiseTimes, type Native } from './native.ts';
import { pageStart } from './page-start.ts';
import { findingsTime, switchesTime } from './proofs.ts';
import { fixed, machine, spreadOf, turnedSpread, writeReport, type Row } from './report.ts';
import { once, paired, timed, type Pair } from './timing.ts';

const root = process.cwd();
const rested = machine();

/** Milliseconds for pictures of all steps at 64 by 64: in one pass, and one after the other. */
function stepPictures(): { pair: Pair; count: number } {
  const { graph } = compile(chain(40));
  const roots = [...new Set(graph.steps)];
  const frame = { time: 1.3, dials: new Map([['go', [1]]]) };
  const all = new WasmEvaluator(roots);
  const each = roots.map((r) => new WasmEvaluator([r]));
  const draw = (some: readonly WasmEvaluator[]): number =>
    once(() => {
      for (const one of some) {
        one.setFrame(frame);
        one.picture(64, 64);
      }
    });
  return { pair: paired(9, () => [draw([all]), draw(each)]), count: roots.length };
}

/**
 * Milliseconds for proving loop and tiles of all steps and outputs of a lowered material, for every setting; and for
 * reading and checking its text.
 */
function proofTime(): { proof: number; read: number } {
  const text = chain(60);
  const program = check(parse(text));
  const fresh = Array.from({ length: 26 }, () => new Proof(program));
  return { proof: timed(25, () => provenVerdicts(fresh.pop()!)), read: timed(25, () => check(parse(text))) };
}

/** Writing GLSL of 600 steps, against 60. */
function shaderText(): Pair {
  const [few, many] = [60, 600].map((count) => compile(chain(count)).graph) as [Graph, Graph];
  const write = (graph: Graph): number =>
    once(() => {
      emitShader(GLSL, graph, graph.outputs);
    });
  return paired(25, () => [write(many), write(few)], 5);
}

const rows: Row[] = [];
/** A row that is held to a most. */
const atMost = (what: string, limit: number, unit: string, pair: Pair, how: string): void => {
  rows.push({
    what,
    reach: `${String(limit)}${unit} at most`,
    reached: `${fixed(pair.ratio, 1)}x`,
    ok: pair.ratio <= limit,
    how: `${how}; ${spreadOf(pair)}`,
  });
};
/** A row whose other side should take at least so many times as long as ours: `pair` gives ours first. */
const atLeast = (what: string, limit: number, pair: Pair, how: string): void => {
  rows.push({
    what,
    reach: `${String(limit)}x or better`,
    reached: `${fixed(1 / pair.ratio, 1)}x`,
    ok: 1 / pair.ratio >= limit,
    how: `${how}; ${turnedSpread(pair)}`,
  });
};
const turned = ({ one, other, ratio, spread: [least, most] }: Pair): Pair => ({
  one: other,
  other: one,
  ratio: 1 / ratio,
  spread: [1 / most, 1 / least],
});

console.log('Drawing in Chromium.');
const drawing = await drawingTimes(root);
for (const [size, limit] of [
  [256, 6],
  [512, 8],
] as const) {
  const pair = turned(drawing.heavy.get(size)!);
  const soon = size === 256 ? ` (${fixed(drawing.heavyOnStage)} ms as the Stage draws it there)` : '';
  atLeast(
    `baking fBm-heavy frames of ${String(size)} x ${String(size)}, WebAssembly, 2 workers`,
    limit,
    pair,
    `${fixed(pair.one)} ms a frame, against ${fixed(pair.other)} ms in Chromium's software WebGL 2, read back${soon}`,
  );
}

console.log('Opening the page.');
// A browser that has nothing else to do, and shows what the graphics process has drawn without reading it back.
const flags = JSON.parse(readFileSync(join(root, 'scripts/chromium-flags.json'), 'utf8')) as string[];
const fresh = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: flags.filter((flag) => flag !== '--disable-gpu-compositing'),
});
const start = await pageStart(root, fresh);
await fresh.close();

console.log('Computing pictures.');
const speed = (milliseconds: number): string => fixed((256 * 256) / milliseconds / 1000, 1);
const noise = noiseTimes();
atLeast(
  'one gradient-noise sample on the rows of its lattice, WebAssembly',
  10,
  noise,
  `${speed(noise.one)} million a second of one core, against ${speed(noise.other)} million of the simplex-noise package's 3D sample`,
);
for (const [what, native, isTurned, limit] of [
  ['the same', 'AVX2', false, 2],
  ['one gradient-noise sample anywhere', 'SSE4', true, 1.3],
] as const satisfies readonly (readonly [string, Native, boolean, number])[]) {
  const pair = nativeTimes(root, native, isTurned);
  const label = `${what}, against native code for ${native} that computes each pixel by itself`;
  if (pair)
    atLeast(
      label,
      limit,
      pair,
      `${speed(pair.one)} million a second of one core, against ${speed(pair.other)} million`,
    );
  else
    rows.push({ what: label, reach: `${String(limit)}x or better`, reached: '-', ok: false, how: 'there is no clang' });
}
const kernelTimes = await kernels(root);
const sumOf = (of: 'one' | 'other'): number => kernelTimes.reduce((sum, kernel) => sum + kernel[of], 0);
const ratios = kernelTimes.map((kernel) => 1 / kernel.ratio);
rows.push({
  what: `kernels of ${String(kernelTimes.length)} demo materials`,
  reach: '2.8x or better',
  reached: `${fixed(sumOf('other') / sumOf('one'), 1)}x`,
  ok: sumOf('other') / sumOf('one') >= 2.8,
  how: `${fixed(sumOf('one'), 0)} ms of processor time for a frame of each in a bake, 256 x 256, against ${fixed(sumOf('other'), 0)} ms of the state before (${BEFORE}) and its texts, whose noise hashes otherwise; sum of the medians, ${fixed(Math.min(...ratios), 1)}x to ${fixed(Math.max(...ratios), 1)}x by material`,
});
const grids = gridAgainstScattered(root);
const slowest = grids.reduce((most, one) => (one.ratio > most.ratio ? one : most));
rows.push({
  what: `code for grids, against code for scattered pixels: the least of ${String(grids.length)} materials, starts and examples`,
  reach: '0.97x or better',
  reached: `${fixed(1 / slowest.ratio)}x`,
  ok: 1 / slowest.ratio >= 0.97,
  how: `${slowest.material}: ${fixed(slowest.one)} ms against ${fixed(slowest.other)} ms; ${turnedSpread(slowest)}`,
});
const { pair: steps, count } = stepPictures();
rows.push({
  what: `all step pictures of a material of ${String(count)} steps in one pass`,
  reach: 'a third of the time at most',
  reached: `${fixed(steps.ratio)} of it`,
  ok: steps.ratio <= 1 / 3,
  how: `${fixed(steps.one)} ms against ${fixed(steps.other)} ms one by one, at 64 x 64; ${spreadOf(steps, 2)}`,
});
rows.push({
  what: 'parse, check, lower and GLSL of 60 steps',
  reach: 'a quarter of the driver at most',
  reached: `${fixed(drawing.front / drawing.driver)} of it`,
  ok: drawing.front / drawing.driver <= 0.25,
  how: `${fixed(drawing.front)} ms against ${fixed(drawing.driver)} ms for compiling and linking, same page, medians`,
});
const { proof, read } = proofTime();
rows.push({
  what: 'proof of loop and tiles of 60 steps, every setting',
  reach: '4x reading the text at most',
  reached: `${fixed(proof / read, 1)}x`,
  ok: proof / read <= 4,
  how: `${fixed(proof)} ms once lowered, against ${fixed(read)} ms for parsing and checking`,
});
const shader = shaderText();
atMost('GLSL of 600 steps, against 60', 11, 'x', shader, `${fixed(shader.one)} ms against ${fixed(shader.other)} ms`);

console.log('Proving.');
const without = 'without';
const reading = 'for parsing, checking and lowering';
for (const [what, limit, than, pair] of [
  ['proof of 60 steps with 6 switches, against none', 3, without, switchesTime(60, 6)],
  ['proof of 600 steps with 6 switches, against none', 10, without, switchesTime(600, 6)],
  [
    'verdicts and findings of 7,000 steps that close',
    2,
    reading,
    findingsTime(7000, 'uv |> pan(1 lap) |> fbm(cells: 4)'),
  ],
  ['verdicts and findings of 7,000 steps with an edge', 2, reading, findingsTime(7000, 'uv.x + phase')],
  [
    'verdicts and findings of 7,000 steps whose loop is open',
    2,
    reading,
    findingsTime(7000, '(uv |> pan(0.3 laps)).x'),
  ],
] as const)
  atMost(what, limit, 'x', pair, `${fixed(pair.one, 0)} ms against ${fixed(pair.other, 0)} ms ${than}`);

console.log('Baking files.');
for (const material of ['aurora-dome', 'fern-portrait', 'petal-ward']) {
  const pair = turned(bakeWall(root, material, 48, 512));
  atLeast(
    `${material}, 48 frames of 512 x 512 as PNG files, by the wall`,
    6,
    pair,
    `${fixed(pair.one / 1000, 1)} s, against ${fixed(pair.other / 1000, 1)} s of the state before (${BEFORE})`,
  );
}
const memory = [await bakeMemory(root, 64), await bakeMemory(root, 256)] as const;
rows.push({
  what: 'memory of baking 2048 x 2048',
  reach: '350 MB at most, whatever the frames',
  reached: `${fixed(Math.max(...memory), 0)} MB`,
  ok: Math.max(...memory) <= 350,
  how: `resident at most: ${fixed(memory[0], 0)} MB for 64 frames, ${fixed(memory[1], 0)} MB for 256`,
});

console.log('Counting instructions.');
for (const { name, language, emitted, hand } of instructionRatios())
  rows.push({
    what: `instructions of emitted ${language}: ${name}`,
    reach: '1.00x at most',
    reached: `${fixed(emitted / hand)}x`,
    ok: emitted <= hand,
    how: `${String(emitted)} against ${String(hand)} by hand, after spirv-opt -O`,
  });

const bytes = start.scripts + start.fonts + start.others;
rows.push(
  {
    what: 'bytes before the Stage first draws',
    reach: '280 kB at most',
    reached: `${fixed(bytes, 0)} kB`,
    ok: bytes <= 280,
    how: `counted in the browser, compressed: ${fixed(start.scripts, 0)} kB of scripts, ${fixed(start.fonts, 0)} kB of fonts, ${fixed(start.others, 0)} kB of answers, in ${String(start.files)} files`,
  },
  {
    what: 'longest task before the Stage first draws',
    reach: '200 ms at most, at rest',
    reached: `${fixed(start.longest, 0)} ms`,
    ok: start.longest <= 200,
    how: 'the graphics context being made, in software; median of the starts',
  },
  {
    what: 'the first picture of a page that is opened',
    reach: '2x a bare page that compiles the same shader',
    reached: `${fixed(start.first.ratio, 1)}x`,
    ok: start.first.ratio <= 2,
    how: `${fixed(start.first.one, 0)} ms against ${fixed(start.first.other, 0)} ms; ${spreadOf(start.first)}`,
  },
);

/** What the numbers hang on, and what was tried. */
const WHY = readFileSync(join(root, 'scripts/bench/why.md'), 'utf8');
console.log(writeReport(root, rested, rows, drawing.stage, WHY));
