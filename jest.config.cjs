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
  transformIgnorePatterns: [
    '/node_modules/(?!(@formulajs|bessel|jstat|uuid|temporal-polyfill|temporal-utils|@vast-knot)/)',
  ],
};
const roots = [
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
