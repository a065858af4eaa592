import { defineConfig } from 'vite';

export default defineConfig({
  logLevel: 'warn',
  ssr: { noExternal: ['@estela/core'] },
  build: { ssr: true, outDir: 'dist', target: 'node20', rolldownOptions: { input: { main: 'src/main.ts', 'bake.worker': 'src/bake.worker.ts' } } },
});
