import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  logLevel: 'warn',
  plugins: [react()],
  worker: { format: 'es' },
  build: { outDir: 'dist', target: 'es2022', chunkSizeWarningLimit: 700 },
  server: { port: 4601, proxy: { '/api': 'http://127.0.0.1:4600' } },
});
