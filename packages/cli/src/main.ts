import { Command } from 'commander';
import { checkFiles } from './check.ts';
import { evalStep } from './eval.ts';

const collect = (value: string, all: string[]): string[] => [...all, value];

const program = new Command('estela').description('Reads, checks and evaluates Wake materials.').showHelpAfterError();

program
  .command('check')
  .description('Say what is wrong in materials; exit 1 where there are errors')
  .argument('<files...>', '.wake files')
  .option('--sources <dir>', 'folder of the images the materials name')
  .option('--json', 'one JSON object a file')
  .action(async (files: string[], options: { sources?: string; json?: boolean }) => {
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
  .option('--json', 'as {"value":[...]}')
  .action(async (file: string, options: Parameters<typeof evalStep>[1]) => {
    process.exitCode = await evalStep(file, options);
  });

await program.parseAsync();
