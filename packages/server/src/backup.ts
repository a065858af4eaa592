import { parseArgs } from 'node:util';
import { backup, BackupRefused, restore } from './storage/backup.ts';

const USAGE = 'npm run backup -- --to FILE [--data FOLDER], or npm run restore -- --from FILE [--data FOLDER]';

/** `backup --to FILE` and `restore --from FILE`, for the data folder that the server would use. */
async function main(): Promise<void> {
  const [command, ...args] = process.argv.slice(2);
  const { values } = parseArgs({
    args,
    options: { to: { type: 'string' }, from: { type: 'string' }, data: { type: 'string' } },
  });
  const folder = values.data ?? process.env.ESTELA_DATA ?? 'data';
  const said = (what: string, bytes: number): void => {
    console.log(`${what}, ${(bytes / 1024 / 1024).toFixed(1)} MB, complete.`);
  };
  if (command === 'backup' && values.to !== undefined) said(`Wrote ${values.to}`, await backup(folder, values.to));
  else if (command === 'restore' && values.from !== undefined)
    said(`Restored into ${folder}`, await restore(values.from, folder));
  else throw new BackupRefused(`Usage: ${USAGE}.`);
}

main().catch((error: unknown) => {
  console.error(error instanceof Error ? error.message : String(error));
  process.exit(1);
});
