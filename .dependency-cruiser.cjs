/**
 * The server's rooms from the ground up: a room imports only from those before it, so that none can be part of a circle. A new
 * room is put where it belongs.
 */
const ROOMS = [
  'problems',
  'database',
  'blobs',
  'jobs',
  'feed',
  'trail',
  'access',
  'serve',
  'queue',
  'link-index',
  'work',
  'settings',
  'store',
  'signatures',
  'structure',
  'properties',
  'roll-up',
  'meshes',
  'find',
  'people',
  'notices',
  'webhooks',
  'mark-up',
  'audit',
  'files',
  'bom',
  'build',
  'issued',
  'compare',
  'lineage',
  'custody',
  'items',
  'lifecycle',
  'changes',
  'places',
  'fetch',
  'issuing',
  'derive',
  'wish',
  'intake',
  'verify',
  'running',
  'threads',
  'demo',
  'seed',
];

const IN_ROOM = (rooms) => `^apps/server/src/(${rooms.join('|')})/`;

/** No import cycles at run time; types may refer both ways. */
module.exports = {
  forbidden: [
    ...ROOMS.slice(0, -1).map((room, at) => ({
      name: `${room}-stands-below`,
      comment: 'A room of the server imports from rooms below it; see ROOMS.',
      severity: 'error',
      from: { path: IN_ROOM([room]), pathNot: '\\.test\\.ts$' },
      to: { path: IN_ROOM(ROOMS.slice(at + 1)), dependencyTypesNot: ['type-only'] },
    })),
    {
      name: 'every-room-has-its-place',
      comment: 'A room that is not listed in ROOMS is not held to the order.',
      severity: 'error',
      from: {},
      to: { path: `^apps/server/src/(?!(${[...ROOMS, 'testing', 'outside', 'cli'].join('|')})/)[^/]+/` },
    },
    {
      name: 'the-census-is-a-witness-of-its-own',
      comment: 'It shares nothing with the readers and rewriters that it is held against.',
      severity: 'error',
      from: { path: '^packages/formats/src/census/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: '^packages/formats/src/census/' },
    },
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(dist|node_modules)/' },
    tsPreCompilationDeps: 'specify',
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['stem-trace-source', 'import', 'default'],
    },
  },
};
