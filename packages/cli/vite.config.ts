import { defineConfig } from 'vite';

export default defineConfig({
  logLevel: 'warn',
  ssr: { noExternal: ['@estela/core', '@estela/codecs'] },
  build: {
    ssr: true,
    outDir: 'dist',
    target: 'node20',
    rolldownOptions: {
      input: { main: 'src/main.ts', 'bake.worker': 'src/bake.worker.ts' },
      // Beside each other, whatever is fetched late: they find each other by that.
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
});
