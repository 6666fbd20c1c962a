/** The arrows of the architecture: web and server import core, standins import neither, core imports no one. */
const only = (from, allowed, comment) => ({
  name: `${from}-arrows`,
  comment,
  severity: 'error',
  from: { path: `^${from}/` },
  to: {
    path: '^(cli|core|server|standins|web|demo|e2e|bench|scripts)/',
    pathNot: `^(${[from, ...allowed].join('|')})/`,
  },
});

module.exports = {
  forbidden: [
    only('cli', ['core'], 'the program in a pipeline reads files and asks core'),
    only('core', [], 'core is the computation alone'),
    only('standins', [], 'stand-ins know nothing of the product'),
    only('server', ['core'], 'server imports core'),
    only('web', ['core'], 'web imports core'),
    only('demo', ['core'], 'the demo is data, checked with core'),
    {
      name: 'core-no-node',
      severity: 'error',
      comment: 'core runs the same in Node and in the browser',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default'],
    },
  },
};
