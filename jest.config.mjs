const transform = {
  '^.+\\.tsx?$': [
    '@swc/jest',
    {
      swcrc: false,
      sourceMaps: true,
      module: { type: 'es6' },
      jsc: {
        target: 'es2022',
        parser: { syntax: 'typescript', tsx: true, decorators: true },
        transform: {
          legacyDecorator: true,
          decoratorMetadata: true,
          useDefineForClassFields: false,
          react: { runtime: 'automatic' },
        },
      },
    },
  ],
};
const project = (name) => ({
  displayName: name,
  rootDir: `packages/${name}`,
  testMatch: ['<rootDir>/test/**/*.test.ts', '<rootDir>/test/**/*.test.tsx'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  testEnvironment: 'node',
  transform,
});

// Long enough for a machine that is several times slower: none of them tells how fast one is.
export default { testTimeout: 60_000, projects: ['core', 'codecs', 'cli', 'server', 'web'].map(project) };
