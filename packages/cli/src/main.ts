import type { Budget } from '@estela/core';
import { Command, InvalidArgumentError } from 'commander';
import type { CheckArguments } from './check.ts';
import { exitCode, fileCommand, withSettings, withSources } from './options.ts';
import { say } from './wording.ts';

/** operations=200,reads=4 */
function budgetOf(text: string): Budget {
  const budget: Record<string, number> = {};
  for (const part of text.split(',')) {
    const [, what, most] = /^\s*(operations|reads|samplers)\s*=\s*(\d+)\s*$/.exec(part) ?? [];
    if (!what || !most) throw new InvalidArgumentError(say.budget(part));
    budget[what] = Number(most);
  }
  return budget;
}

const program = new Command('estela').description('Reads, checks and evaluates Wake materials.').showHelpAfterError();

withSources(
  program
    .command('check')
    .description('Check materials for errors, and whether they loop and tile; exits 1 on errors')
    .argument('<files...>', '.wake files')
    .option('--json', 'print one JSON object per file')
    .option('--strict', 'also exit 1 if a material does not loop or tile')
    .option('--budget <list>', 'maximum cost per pixel, for example operations=200,reads=4,samplers=4', budgetOf),
).action(async (files: string[], options: CheckArguments) => {
  const { checkFiles } = await import('./check.ts');
  process.exitCode = await checkFiles(files, options);
});

withSources(withSettings(fileCommand(program, 'eval', 'Print the value of a step at one pixel and time')))
  .requiredOption('--step <name>', 'a step, or an output such as out.color')
  .option('--uv <u,v>', 'UV position of the pixel; 0,0 is the top left', '0.5,0.5')
  .option('--time <seconds>', 'time in seconds', '0')
  .option('--backend <name>', 'what computes it: reference or wasm', 'reference')
  .option('--json', 'print {"value":[...]}')
  .action(exitCode(async () => (await import('./eval.ts')).evalStep));

const withCode = (command: Command): Command =>
  command
    .option('--target <list>', 'glsl, hlsl, wgsl, c, js, separated by commas, or all', 'all')
    .option('--normal-y <direction>', 'green channel of normals: y up or down', 'up');

withCode(withSettings(fileCommand(program, 'emit', 'Write the shader code of a material, with a manifest')))
  .requiredOption('--out <dir>', 'output folder; files are named after the material')
  .action(exitCode(async () => (await import('./emit.ts')).emitMaterial));

withCode(
  withSources(
    withSettings(fileCommand(program, 'export', 'Export a material as a package of code and textures, or as GLB')),
  ),
)
  .option('--leave-out-missing', 'export without images that are missing; the manifest lists them')
  .option('--out <file>', 'package as .zip: code, textures, and a page that plays the material')
  .option('--gltf <file>', 'GLB file: the material on a mesh, with its motion')
  .option('--mesh <mesh>', 'mesh of the GLB: a built-in shape, or an .obj, .gltf or .glb file', 'plane')
  .option('--size <n>', 'width and height in pixels of textures baked for the GLB', '512')
  .option('--frames <n>', 'flipbook frames for what no texture transform can play; 0 bakes the first frame only', '0')
  .option('--images <type>', 'texture format of the GLB: png, jpeg or webp', 'png')
  .option('--json', 'print what the GLB holds as JSON')
  .action(exitCode(async () => (await import('./export.ts')).exportMaterial));

program
  .command('import')
  .description('Import a glTF or GLB file: its mesh, textures and animated materials')
  .argument('<file>', 'a .glb or .gltf file')
  .requiredOption('--out <dir>', 'output folder')
  .action(exitCode(async () => (await import('./import.ts')).importGltf));

withSources(withSettings(fileCommand(program, 'bake', 'Bake frames of a material to image files')))
  .requiredOption('--out <path>', 'output: a file, a .zip, or a folder')
  .option('--format <name>', 'sequence, sheet, apng or webm', 'sequence')
  .option('--size <WxH>', 'size of a frame in pixels', '256x256')
  .option('--outputs <list>', 'outputs to bake, one picture each; color by default')
  .option('--pack <channels>', "pack outputs into channels, for example 'r=color.r g=opacity', or orm")
  .option('--frames <which>', 'all, or frame numbers and ranges, for example 0,15,20..29', 'all')
  .option('--every <k>', 'bake every k-th of these frames')
  .option('--count <n>', 'number of frames, spread evenly over the loop')
  .option('--columns <n>', 'columns of a sheet')
  .option('--power-of-two', 'round the size of a sheet up to powers of two')
  .option('--samples <n>', 'n x n samples per pixel', '1')
  .option('--bits <n>', 'bits per channel: 8 or 16', '8')
  .option('--bleed <n>', 'pixels of padding around each frame of a sheet')
  .option('--spread', 'fill transparent pixels with the nearest visible colour')
  .option('--premultiply', 'premultiply colours by alpha')
  .option('--linear <list>', 'outputs stored as linear values, not sRGB')
  .option('--normal-y <direction>', 'green channel of normals: y up or down')
  .option('--jobs <n>', 'threads; one per core by default')
  .action(exitCode(async () => (await import('./bake.ts')).bakeMaterial));

program
  .command('reference')
  .description('Write the Wake reference page, with a picture of each operation')
  .requiredOption('--out <dir>', 'folder for wake.md and its pictures')
  .action(async ({ out }: { out: string }) => {
    await (await import('./reference.ts')).writeReference(out);
  });

await program.parseAsync();
