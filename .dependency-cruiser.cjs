/** No import cycles at run time; types may refer both ways. */
module.exports = {
  forbidden: [
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
