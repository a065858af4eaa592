// npm run tasks: draws the pictures of docs/tasks from the materials that stand in them: four moments of each loop.
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['player', 'cli']);
const folder = join(root, 'docs/tasks');
const scratch = mkdtempSync(join(tmpdir(), 'estela-tasks-'));
try {
  for (const page of readdirSync(folder).filter((name) => name.endsWith('.md'))) {
    const text = readFileSync(join(folder, page), 'utf8');
    const [, picture] = /!\[[^\]]*\]\(([a-z-]+\.png)\)/.exec(text) ?? [];
    const [, wake] = /```wake\n([\s\S]*?)```/.exec(text) ?? [];
    if (!picture || !wake) continue;
    const file = join(scratch, 'material.wake');
    writeFileSync(file, wake);
    const out = join(scratch, picture);
    const options = ['--format', 'sheet', '--count', '4', '--columns', '4', '--size', '160x160', '--samples', '2'];
    execFileSync(process.execPath, [join(root, 'packages/cli/dist/main.js'), 'bake', file, ...options, '--out', out]);
    copyFileSync(out, join(folder, picture));
    console.log(`Drew ${picture}.`);
  }
} finally {
  rmSync(scratch, { recursive: true, force: true });
}
