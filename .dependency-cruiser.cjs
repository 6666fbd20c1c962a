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

/**
 * The rooms of a part in their order: each imports only those that stand before it, so that two never import each other. A folder
 * that is not in the list may not be there.
 */
const rooms = (part, folders) => [
  ...folders.map((room, at) => ({
    name: `${part}-${room}-arrows`,
    comment: `${part}/${room} knows only the rooms before it: ${folders.slice(0, at).join(', ') || 'none'}`,
    severity: 'error',
    from: { path: `^${part}/src/${room}/`, pathNot: '\\.test\\.ts$' },
    to: {
      path: `^${part}/src/`,
      pathNot: `^${part}/src/(${folders.slice(0, at + 1).join('|')})/`,
    },
  })),
  {
    name: `${part}-rooms`,
    comment: `every folder of ${part} has its place in the order of rooms`,
    severity: 'error',
    from: { path: `^${part}/src/[^/]+/`, pathNot: `^${part}/src/(${folders.join('|')})/` },
    to: {},
  },
];

/** Where the type of a rule's parts comes from the list of their kinds. */
const families = '^core/src/(engine/|model/(triggers/|trigger|event|clock))';

module.exports = {
  forbidden: [
    ...rooms('core', [
      'model',
      'formats',
      'change',
      'table',
      'formula',
      'workspace',
      'connection',
      'schema',
      'engine',
      'check',
      'versions',
      'suggest',
      'verify',
      'replay',
      'reconcile',
      'undo',
      'arrival',
      'form',
      'specification',
      'bundle',
      'contract',
    ]),
    ...rooms('server', [
      'config',
      'db',
      'metrics',
      'http',
      'people',
      'audit',
      'connector',
      'systems',
      'endpoints',
      'tables',
      'rules',
      'registry',
      'inbox',
      'images',
      'runs',
      'messages',
      'waits',
      'pauses',
      'intake',
      'schedule',
      'samples',
      'compute',
      'drafts',
      'carrying',
      'jobs',
      'history',
      'reconcile',
      'arrivals',
      'forms',
      'fileSources',
      'undo',
      'telling',
      'worker',
      'demo',
      'api',
      // What tests of the rooms share.
      'fixtures',
    ]),
    only(
      'cli',
      ['core', 'scripts'],
      'the program in a pipeline reads files and asks core; it is built when it is started',
    ),
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
      comment: 'two files that need each other need a third one, for types as well',
      from: { pathNot: families },
      to: { circular: true },
    },
    {
      name: 'no-circles-in-families',
      severity: 'error',
      comment:
        'the type of a family comes from its list, so that its members know it; values go one way all the same',
      from: { path: families },
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
