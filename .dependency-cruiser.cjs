/** The arrows of docs/architecture.md: packages depend on core alone, and core's folders on earlier ones. */
const core = 'packages/core/src';
module.exports = {
  forbidden: [
    {
      name: 'no-circular',
      severity: 'error',
      from: {},
      to: { circular: true, dependencyTypesNot: ['type-only'], viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: `^${core}` },
      to: { pathNot: [`^${core}`, 'node_modules/fraction.js'] },
    },
    {
      name: 'core-by-its-index',
      severity: 'error',
      from: { pathNot: '^packages/core' },
      to: { path: `^${core}`, pathNot: `^${core}/index.ts$` },
    },
    {
      name: 'packages-apart',
      severity: 'error',
      from: { path: '^packages/(cli|server|web|e2e)/' },
      to: { path: '^packages/', pathNot: ['^packages/(core|codecs)/', '^packages/$1/'] },
    },
    {
      name: 'lang-first',
      severity: 'error',
      from: { path: `^${core}/lang/` },
      to: { path: core, pathNot: [`^${core}/lang/`, `^${core}/diagnostics/`] },
    },
    {
      name: 'diagnostics-before-all',
      severity: 'error',
      from: { path: `^${core}/diagnostics/` },
      to: { path: core, pathNot: `^${core}/diagnostics/` },
    },
    {
      name: 'check-knows-no-back-end',
      severity: 'error',
      from: { path: `^${core}/check/` },
      to: { path: [`^${core}/backends/`] },
    },
    {
      name: 'back-ends-apart',
      severity: 'error',
      from: { path: `^${core}/backends/([^/]+)/` },
      to: { path: `^${core}/backends/`, pathNot: [`^${core}/backends/$1/`] },
    },
    {
      name: 'operations-know-no-text',
      severity: 'error',
      from: { path: `^${core}/ops/` },
      to: { path: [`^${core}/lang/`, `^${core}/check/`, `^${core}/backends/`] },
    },
    {
      name: 'stores-know-no-react',
      severity: 'error',
      from: { path: '-store\\.ts$|/saving\\.ts$|/look\\.ts$|^packages/web/src/gl/' },
      to: { path: 'node_modules/(react|react-dom|@mui)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      conditionNames: ['import', 'require', 'node', 'default'],
      exportsFields: ['exports'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json'],
    },
  },
};
