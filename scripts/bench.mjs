// npm run bench: measures side by side, as ratios, and writes docs/performance.md. It is no test.
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from './build.mjs';
import { needCommands, needPackages, root } from './install.mjs';

needPackages();
needCommands({ chromium: 'chromium', glslangValidator: 'glslang-tools', 'spirv-opt': 'spirv-tools' }, 'The bench');
await build(['player', 'web', 'server', 'cli']);
const { build: bundle } = await import('vite');
const outDir = join(root, '.cache/bench');
const common = { root, logLevel: 'warn', configFile: false };
await bundle({
  ...common,
  ssr: { noExternal: ['@estela/core', 'simplex-noise'] },
  build: {
    ssr: true,
    outDir,
    target: 'node20',
    minify: false,
    rolldownOptions: {
      input: { main: join(root, 'scripts/bench/main.ts'), worker: join(root, 'scripts/bench/worker.ts') },
    },
  },
});
await bundle({
  ...common,
  build: {
    outDir: join(outDir, 'page'),
    target: 'es2022',
    minify: false,
    lib: { entry: join(root, 'scripts/bench/page.ts'), formats: ['iife'], name: 'bench', fileName: () => 'page.js' },
  },
});
await import(pathToFileURL(join(outDir, 'main.js')).href);
