/**
 * Unit tests stand beside the code as *.test.ts, those of components as *.test.tsx, and those that need PostgreSQL as
 * *.live.test.ts.
 */
const transform = {
  '^.+\\.tsx?$': [
    '@swc/jest',
    {
      jsc: {
        parser: { syntax: 'typescript', tsx: true },
        target: 'es2022',
        transform: { react: { runtime: 'automatic' } },
      },
      module: { type: 'commonjs' },
    },
  ],
  '^.+\\.m?js$': ['@swc/jest', { jsc: { target: 'es2022' }, module: { type: 'commonjs' } }],
};
const shared = {
  transform,
  testEnvironment: 'node',
  // This package names its only form under the import condition, which jest does not look at.
  moduleNameMapper: { '^convert$': '<rootDir>/node_modules/convert/dist/index.js' },
  transformIgnorePatterns: [
    '/node_modules/(?!(@formulajs|bessel|jstat|uuid|iso-3166|dinero.js|temporal-polyfill|temporal-utils|convert|@sindresorhus|@apidevtools|oauth4webapi|escape-string-regexp|numfmt|@vast-knot)/)',
  ],
};
const roots = [
  '<rootDir>/cli',
  '<rootDir>/core',
  '<rootDir>/server',
  '<rootDir>/standins',
  '<rootDir>/web',
  '<rootDir>/demo',
  '<rootDir>/e2e',
];

module.exports = {
  // Nothing is measured by it: it ends what hangs, also on a machine that others use as well.
  testTimeout: 30_000,
  projects: [
    {
      ...shared,
      displayName: 'unit',
      roots,
      testMatch: ['**/*.test.ts'],
      testPathIgnorePatterns: ['\\.live\\.test\\.ts$'],
    },
    {
      ...shared,
      displayName: 'components',
      testEnvironment: '<rootDir>/web/src/testing/environment.cjs',
      setupFiles: ['<rootDir>/web/src/testing/browser.ts'],
      setupFilesAfterEnv: ['<rootDir>/web/src/testing/patience.ts'],
      roots: ['<rootDir>/web'],
      testMatch: ['**/*.test.tsx'],
      moduleNameMapper: {
        ...shared.moduleNameMapper,
        '\\.css$': '<rootDir>/web/src/testing/noStyle.cjs',
        // Test environments have no workers.
        '^(\\.{1,2}/)+(work/)?worker$': '<rootDir>/web/src/testing/sameThread.ts',
      },
    },
    { ...shared, displayName: 'live', roots, testMatch: ['**/*.live.test.ts'] },
  ],
};
