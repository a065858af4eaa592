/** The arrows of docs/architecture.md: packages depend on core alone, and core's folders on earlier ones. */
const core = 'packages/core/src';
/** Core's folders and its pipeline: each imports only those before it. */
const layers = [
  'diagnostics/',
  'ir/',
  'image/',
  'mesh/',
  'lang/',
  'ops/',
  'check/',
  'lower/',
  'compile.ts',
  'backends/',
  'measure/',
  'edits/',
  'prove/',
  'examine/',
  'bake/',
  'exchange/',
];
const web = 'packages/web/src';
/** The web's folders: each imports only those before it. */
const webLayers = ['api', 'ui', 'history', 'material', 'gl', 'workers', 'project', 'viewport'];
/** Above them the views, which know nothing of each other, and then the routes. */
const views = ['bench', 'shelf', 'sources', 'fit', 'sets', 'bakes', 'export'];
const server = 'packages/server/src';
/** The server's folders: each imports only those before it. */
const serverLayers = [
  'http',
  'access',
  'storage',
  'uploads',
  'events',
  'projects',
  'materials',
  'sources',
  'meshes',
  'sets',
  'exports',
  'bakes',
  'worker',
  'health',
  'starts',
  'openapi',
  'seed',
];
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
      from: { path: '^packages/(cli|server|web|e2e|player)/' },
      to: { path: '^packages/', pathNot: ['^packages/(core|codecs|contract)/', '^packages/$1/'] },
    },
    {
      name: 'contract-over-core-alone',
      severity: 'error',
      from: { path: '^packages/contract/' },
      to: { path: '^packages/', pathNot: ['^packages/(core|contract)/'] },
    },
    {
      // The page checks nothing itself: no schema is to be fetched with it.
      name: 'web-reads-types-of-contract',
      severity: 'error',
      from: { path: '^packages/(web|cli)/' },
      to: { path: '^packages/contract/', dependencyTypesNot: ['type-only'] },
    },
    ...layers.map((layer, i) => ({
      name: `core-${layer.replace(/\W.*/, '')}-knows-no-later-folder`,
      severity: 'error',
      from: { path: `^${core}/${layer}` },
      to: { path: [...layers.slice(i + 1), 'index.ts'].map((later) => `^${core}/${later}`) },
    })),
    ...webLayers.map((layer, i) => ({
      name: `web-${layer}-knows-no-later-folder`,
      severity: 'error',
      from: { path: `^${web}/${layer}/` },
      to: { path: [...webLayers.slice(i + 1), ...views, 'app'].map((later) => `^${web}/${later}/`) },
    })),
    ...views.map((view) => ({
      name: `web-${view}-knows-no-other-view`,
      severity: 'error',
      from: { path: `^${web}/${view}/` },
      to: { path: [...views.filter((v) => v !== view), 'app'].map((other) => `^${web}/${other}/`) },
    })),
    ...serverLayers.map((layer, i) => ({
      name: `server-${layer}-knows-no-later-folder`,
      severity: 'error',
      from: { path: `^${server}/${layer}/` },
      to: { path: [...serverLayers.slice(i + 1), 'main.ts'].map((later) => `^${server}/${later}`) },
    })),
    {
      name: 'server-has-no-other-folders',
      severity: 'error',
      from: { path: `^${server}/[^/]+/`, pathNot: serverLayers.map((f) => `^${server}/${f}/`) },
      to: {},
    },
    {
      name: 'web-has-no-other-folders',
      severity: 'error',
      from: { path: `^${web}/`, pathNot: [...webLayers, ...views, 'app'].map((f) => `^${web}/${f}/`) },
      to: {},
    },
    {
      name: 'lang-first',
      severity: 'error',
      from: { path: `^${core}/lang/` },
      to: { path: core, pathNot: [`^${core}/lang/`, `^${core}/diagnostics/`] },
    },
    {
      name: 'back-ends-apart',
      severity: 'error',
      from: { path: `^${core}/backends/([^/]+)/` },
      to: { path: `^${core}/backends/[^/]+/`, pathNot: [`^${core}/backends/$1/`] },
    },
    {
      name: 'operations-know-no-text',
      severity: 'error',
      from: { path: `^${core}/ops/` },
      to: { path: `^${core}/lang/` },
    },
    {
      name: 'stores-know-no-react',
      severity: 'error',
      from: { path: '-store\\.ts$|/saving\\.ts$|/look\\.ts$|^packages/web/src/(gl|material|workers)/' },
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
