import react from '@vitejs/plugin-react';
import { defineConfig, type HtmlTagDescriptor, type Plugin } from 'vite';
import { contextOf } from './src/gl/context.ts';

const PICTURE = '/bench/early-picture.ts';

/**
 * Lets the browser fetch what draws the first picture of a material along with the entry, which only then knows that it
 * is wanted.
 */
const preloadPicture: Plugin = {
  name: 'preload-picture',
  transformIndexHtml: {
    order: 'post',
    handler(_, { bundle = {} }) {
      const names = new Set<string>();
      // What the entry imports is named already.
      const known = Object.values(bundle).flatMap((c) => (c.type === 'chunk' && c.isEntry ? c.imports : []));
      const add = (name: string): void => {
        const chunk = bundle[name];
        if (chunk?.type !== 'chunk' || chunk.isEntry || names.has(name) || known.includes(name)) return;
        names.add(name);
        chunk.imports.forEach(add);
      };
      for (const [name, chunk] of Object.entries(bundle))
        if (chunk.type === 'chunk' && chunk.moduleIds.some((id) => id.endsWith(PICTURE))) add(name);
      return [...names].map((name): HtmlTagDescriptor => ({
        tag: 'link',
        attrs: { rel: 'modulepreload', crossorigin: true, href: `/${name}` },
        injectTo: 'head',
      }));
    },
  },
};

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

export default defineConfig({
  logLevel: 'warn',
  plugins: [react(), preloadPicture, earlyContext],
  worker: { format: 'es' },
  build: {
    outDir: 'dist',
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    // The page's head names these already.
    modulePreload: { resolveDependencies: (file, needed) => (/\/picture-[^/]*$/.test(file) ? [] : needed) },
    // All that the first picture needs is one file, but for what asks for its text before that is there.
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'start', test: /src\/(app\/main|api\/early|history\/drafts|gl\/context)\.ts/, priority: 2 },
            { name: 'picture', test: /bench\/early-picture\.ts/, priority: 1 },
          ],
        },
      },
    },
  },
  server: { port: 4601, proxy: { '/api': 'http://127.0.0.1:4600' } },
});
