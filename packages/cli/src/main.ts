import type { Budget } from '@estela/core';
import { Command, InvalidArgumentError } from 'commander';
import type { CheckArguments } from './check.ts';
import { exitCode, fileCommand, withSettings, withSources } from './options.ts';

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

withSources(
  program
    .command('check')
    .description('Say what is wrong in materials; exit 1 where there are errors; whether they loop and tile')
    .argument('<files...>', '.wake files')
    .option('--json', 'one JSON object a file')
    .option('--strict', 'also fail where a loop or tile is open')
    .option('--budget <list>', 'most that a pixel may cost, as operations=200,reads=4,samplers=4', budgetOf),
).action(async (files: string[], options: CheckArguments) => {
  const { checkFiles } = await import('./check.ts');
  process.exitCode = await checkFiles(files, options);
});

withSources(withSettings(fileCommand(program, 'eval', 'The value of a step at a pixel and moment')))
  .requiredOption('--step <name>', 'a step, or an output such as out.color')
  .option('--uv <u,v>', 'where, top left is 0,0', '0.5,0.5')
  .option('--time <seconds>', 'when', '0')
  .option('--backend <name>', 'reference or wasm', 'reference')
  .option('--json', 'as {"value":[...]}')
  .action(exitCode(async () => (await import('./eval.ts')).evalStep));

const withCode = (command: Command): Command =>
  command
    .option('--target <list>', 'glsl, hlsl, wgsl, c and js with commas between, or all', 'all')
    .option('--normal-y <way>', 'where green of a normal points: up or down', 'up');

withCode(withSettings(fileCommand(program, 'emit', 'Write a material as code for other programs, with a manifest')))
  .requiredOption('--out <dir>', 'folder for the files, which are named by the title')
  .action(exitCode(async () => (await import('./emit.ts')).emitMaterial));

withCode(
  withSources(
    withSettings(fileCommand(program, 'export', 'Write a material as a package of code and textures, or as GLB')),
  ),
)
  .option('--leave-out-missing', 'write it without the images that are not found; the manifest says which')
  .option('--out <file>', 'the zip of a package: code, textures, a page that plays it')
  .option('--gltf <file>', 'the GLB: the material on a mesh, with its motion')
  .option('--mesh <mesh>', 'a shape by its name, or an .obj, .gltf or .glb file', 'plane')
  .option('--size <n>', 'pixels along a side of what is baked for the GLB', '512')
  .option('--frames <n>', 'frames of what changes in itself; 0 bakes its first moment', '0')
  .option('--images <type>', 'textures of the GLB: png, jpeg or webp', 'png')
  .option('--json', 'say what the GLB holds as JSON')
  .action(exitCode(async () => (await import('./export.ts')).exportMaterial));

program
  .command('import')
  .description('Import a glTF or GLB file: its mesh, its textures, and materials that move as it says')
  .argument('<file>', 'a .glb or .gltf file')
  .requiredOption('--out <dir>', 'folder for what comes of it')
  .action(exitCode(async () => (await import('./import.ts')).importGltf));

withSources(withSettings(fileCommand(program, 'bake', 'Compute frames of a material and write them as pictures')))
  .requiredOption('--out <path>', 'file, .zip for all in one, or a folder')
  .option('--format <name>', 'sequence, sheet, apng or webm', 'sequence')
  .option('--size <WxH>', 'of a frame, in pixels', '256x256')
  .option('--outputs <list>', 'which outputs, a picture each; color where nothing is said')
  .option('--pack <channels>', "outputs by channel, as 'r=color.r g=opacity', or orm")
  .option('--frames <which>', 'all, or frames and FIRST..LAST with commas between, as 0,15,20..29', 'all')
  .option('--every <k>', 'every k-th of these frames')
  .option('--count <n>', 'so many frames, evenly over the loop')
  .option('--columns <n>', 'of a sheet')
  .option('--power-of-two', 'sides of a sheet are made powers of two')
  .option('--samples <n>', 'n by n samples a pixel', '1')
  .option('--bits <n>', 'a channel: 8 or 16', '8')
  .option('--bleed <n>', 'pixels by which the edges of each frame of a sheet are repeated around it')
  .option('--spread', 'give clear pixels the colour of the nearest covered one')
  .option('--premultiply', 'multiply colours by their alpha')
  .option('--linear <list>', 'colours that are stored as linear light, not as sRGB')
  .option('--normal-y <way>', 'where green of a normal points: up or down')
  .option('--jobs <n>', 'threads; as many as there are cores')
  .action(exitCode(async () => (await import('./bake.ts')).bakeMaterial));

program
  .command('reference')
  .description('Write the reference page of Wake, with a picture of each operation')
  .requiredOption('--out <dir>', 'folder for wake.md and its pictures')
  .action(async ({ out }: { out: string }) => {
    await (await import('./reference.ts')).writeReference(out);
  });

await program.parseAsync();
