import { defineConfig } from 'vite';

export default defineConfig({
  logLevel: 'warn',
  ssr: { noExternal: ['@estela/core', '@estela/codecs', '@estela/contract'] },
  build: {
    ssr: true,
    outDir: 'dist',
    target: 'node20',
    rolldownOptions: {
      input: {
        main: 'src/main.ts',
        worker: 'src/worker/main.ts',
        backup: 'src/backup.ts',
        'mesh-worker': 'src/meshes/mesh-worker.ts',
        'start-worker': 'src/starts/start-worker.ts',
        'bake-worker': 'src/bakes/bake-worker.ts',
        'package-worker': 'src/exports/package-worker.ts',
        'glb-worker': 'src/exports/glb-worker.ts',
      },
      // Beside each other, as they find threads and files by where they are.
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
});
