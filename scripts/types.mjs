// Checks the types of every package, one after the other.
import { readdirSync } from 'node:fs';
import { root, run } from './install.mjs';

for (const name of readdirSync(`${root}/packages`))
  run(process.execPath, ['node_modules/typescript7/bin/tsc', '-p', `packages/${name}`], {
    why: `The types of ${name} do not hold.`,
  });
run(process.execPath, ['node_modules/typescript7/bin/tsc', '-p', 'packages/core/test'], {
  why: 'The types of the tests of core do not hold.',
});
