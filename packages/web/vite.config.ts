import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';
import { contextOf } from './src/gl/context.ts';

/** Begins to make the context of a material's page before any module is there; the server's policy names its hash. */
const earlyContext: Plugin = {
  name: 'early-context',
  transformIndexHtml: () => [
    {
      tag: 'script',
      children: `if(/^\\/materials\\/[^/]+$/.test(location.pathname))window.earlyContext=(${contextOf.toString()})(document.createElement('canvas'))`,
      injectTo: 'head-prepend',
    },
  ],
};

/** The browser paints nothing before the entry has run: a first picture is compiled sooner while it does not. */
const blocksPaint: Plugin = {
  name: 'blocks-paint',
  transformIndexHtml: {
    order: 'post',
    handler: (html) => html.replace('<script type="module"', '<script type="module" blocking="render"'),
  },
};

export default defineConfig({
  logLevel: 'warn',
  plugins: [react(), earlyContext, blocksPaint],
  worker: { format: 'es' },
  build: {
    outDir: 'dist',
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    // All that the first picture needs is one file.
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'start', test: /src\/app\/main\.ts/ }] } } },
  },
  server: { port: 4601, proxy: { '/api': 'http://127.0.0.1:4600' } },
});
