/** Unit tests stand beside the code as *.test.ts; those that need PostgreSQL and stand-ins as *.live.test.ts. */
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
    '/node_modules/(?!(@formulajs|bessel|jstat|uuid|temporal-polyfill|temporal-utils|convert|@sindresorhus|escape-string-regexp|numfmt|@vast-knot)/)',
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
  projects: [
    {
      ...shared,
      displayName: 'unit',
      roots,
      testMatch: ['**/*.test.ts', '**/*.test.tsx'],
      testPathIgnorePatterns: ['\\.live\\.test\\.ts$'],
    },
    { ...shared, displayName: 'live', roots, testMatch: ['**/*.live.test.ts'] },
  ],
};
