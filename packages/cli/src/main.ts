import type { Budget } from '@estela/core';
import { Command, InvalidArgumentError } from 'commander';
import { bakeMaterial, type BakeArguments } from './bake.ts';
import { checkFiles } from './check.ts';
import { emitMaterial } from './emit.ts';
import { evalStep } from './eval.ts';
import { writeReference } from './reference.ts';

const collect = (value: string, all: string[]): string[] => [...all, value];

/** operations=200,reads=4 */
function budgetOf(text: string): Budget {
  const budget: Record<string, number> = {};
  for (const part of text.split(',')) {
    const [, what, most] = /^\s*(operations|reads|samplers)\s*=\s*(\d+)\s*$/.exec(part) ?? [];
    if (!what || !most) throw new InvalidArgumentError(`'${part}' is none of operations=N, reads=N, samplers=N.`);
    budget[what] = Number(most);
  }
  return budget;
}

const program = new Command('estela').description('Reads, checks and evaluates Wake materials.').showHelpAfterError();

program
  .command('check')
  .description('Say what is wrong in materials; exit 1 where there are errors; whether they loop and tile')
  .argument('<files...>', '.wake files')
  .option('--sources <dir>', 'folder of the images the materials name')
  .option('--json', 'one JSON object a file')
  .option('--strict', 'also fail where a loop or tile is open')
  .option('--budget <list>', 'most that a pixel may cost, as operations=200,reads=4,samplers=4', budgetOf)
  .action(async (files: string[], options: { sources?: string; json?: boolean; strict?: boolean; budget?: Budget }) => {
    process.exitCode = await checkFiles(files, options);
  });

program
  .command('eval')
  .description('The value of a step at a pixel and moment')
  .argument('<file>', 'a .wake file')
  .requiredOption('--step <name>', 'a step, or an output such as out.color')
  .option('--uv <u,v>', 'where, top left is 0,0', '0.5,0.5')
  .option('--time <seconds>', 'when', '0')
  .option('--set <dial=value>', 'a dial or switch, as in the text; may be repeated', collect, [])
  .option('--variant <name>', 'the dials of a variant')
  .option('--sources <dir>', 'folder of the images the material names')
  .option('--backend <name>', 'reference or wasm', 'reference')
  .option('--json', 'as {"value":[...]}')
  .action(async (file: string, options: Parameters<typeof evalStep>[1]) => {
    process.exitCode = await evalStep(file, options);
  });

program
  .command('emit')
  .description('Write a material as shader code, with a manifest of its dials')
  .argument('<file>', 'a .wake file')
  .option('--target <name>', 'glsl', 'glsl')
  .requiredOption('--out <dir>', 'folder for NAME.glsl and NAME.json')
  .option('--set <dial=value>', 'a dial or switch, as in the text; may be repeated', collect, [])
  .option('--variant <name>', 'the switches of a variant')
  .action(async (file: string, options: Parameters<typeof emitMaterial>[1]) => {
    process.exitCode = await emitMaterial(file, options);
  });

program
  .command('bake')
  .description('Compute frames of a material and write them as pictures')
  .argument('<file>', 'a .wake file')
  .option('--size <WxH>', 'in pixels', '256x256')
  .option('--channel <name>', 'which output', 'color')
  .option('--frames <which>', 'all, a frame, or FIRST..LAST', 'all')
  .option('--format <name>', 'png, apng or sheet', 'png')
  .requiredOption('--out <path>', 'file; for several png frames a folder')
  .option('--samples <n>', 'n by n samples a pixel', '1')
  .option('--set <dial=value>', 'a dial or switch, as in the text; may be repeated', collect, [])
  .option('--variant <name>', 'the dials of a variant')
  .option('--sources <dir>', 'folder of the images the material names')
  .action(async (file: string, options: BakeArguments) => {
    process.exitCode = await bakeMaterial(file, options);
  });

program
  .command('reference')
  .description('Write the reference page of Wake, with a picture of each operation')
  .requiredOption('--out <dir>', 'folder for wake.md and its pictures')
  .action(async ({ out }: { out: string }) => {
    await writeReference(out);
  });

await program.parseAsync();
