import type { Command } from 'commander';

const collect = (value: string, all: string[]): string[] => [...all, value];

/** A command about one material. */
export const fileCommand = (program: Command, name: string, description: string): Command =>
  program.command(name).description(description).argument('<file>', 'a .wake file');

/** What the dials and switches are set to. */
export const withSettings = (command: Command): Command =>
  command
    .option('--set <dial=value>', 'set a dial or switch; may be repeated', collect, [])
    .option('--variant <name>', 'use the values of a variant');

/** Where images are looked for. */
export const withSources = (command: Command): Command =>
  command.option('--sources <dir>', 'folder with the images that materials read');

/** Prints why something could not be done. */
export const printError = (error: unknown): void => {
  console.error(error instanceof Error ? error.message : String(error));
};

/** Fetches a command and runs it, which gives an exit code; 2, with the sentence, where an option is wrong or a file cannot be read. */
export const exitCode =
  <Options>(command: () => Promise<(file: string, options: Options) => Promise<number>>) =>
  async (file: string, options: Options): Promise<void> => {
    try {
      process.exitCode = await (await command())(file, options);
    } catch (error) {
      printError(error);
      process.exitCode = 2;
    }
  };
