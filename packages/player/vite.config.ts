import { defineConfig, type Plugin } from 'vite';

/** Puts the script into the page: a page that is opened from a folder may read no file beside it. */
const inline: Plugin = {
  name: 'inline',
  enforce: 'post',
  generateBundle(_, bundle) {
    const page = bundle['index.html'];
    const [script] = Object.values(bundle).filter((file) => file.type === 'chunk');
    if (page?.type !== 'asset' || !script) throw new Error('There is no page, or no script.');
    const code = script.code.trim().replace(/<(?=\/script|script|!--)/gi, '\\x3c');
    page.source = String(page.source)
      .replace(/\s*<script type="module"[^>]*><\/script>/, '')
      .replace('</body>', () => `<script type="module">${code}</script>\n  </body>`);
    Reflect.deleteProperty(bundle, script.fileName);
  },
};

export default defineConfig({
  logLevel: 'warn',
  plugins: [inline],
  build: { outDir: 'dist', target: 'es2022', modulePreload: false },
});
