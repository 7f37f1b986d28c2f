/** The layer rules of docs/architecture.md: imports point downwards only. */
const layers = ['core', 'engine', 'state', 'ui', 'app']
const forbidden = []
for (const [index, layer] of layers.entries()) {
  const above = layers.slice(index + 1)
  if (above.length)
    forbidden.push({
      name: `${layer}-imports-only-downwards`,
      severity: 'error',
      from: { path: `^src/${layer}/` },
      to: { path: `^src/(${above.join('|')}|cli)/` },
    })
}
const coreRows = require('./tools/layers/coreRows.cjs').map((row) => Object.keys(row))
for (const [index, row] of coreRows.entries())
  for (const folder of row) {
    const beneath = coreRows.slice(0, index).flat()
    forbidden.push({
      name: `core-${folder}-imports-only-what-lies-beneath`,
      severity: 'error',
      from: { path: `^src/core/${folder}/`, pathNot: '\\.test(ing)?\\.ts$' },
      to: { path: `^src/core/(?!(${[...beneath, folder].join('|')})/)` },
    })
  }
forbidden.push(
  {
    name: 'core-folders-have-a-row',
    severity: 'error',
    from: { path: `^src/core/(?!(${coreRows.flat().join('|')})/)` },
    to: {},
  },
  {
    name: 'core-is-free-of-platforms',
    comment:
      'The computation runs in Node, in workers and in tests alike: no React, Next, storage or Node-only API.',
    severity: 'error',
    from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
    to: {
      path: '^(react|react-dom|next|idb|zustand|comlink|node:)|node_modules/(react|react-dom|next|idb|zustand|comlink)/',
      dependencyTypesNot: ['type-only'],
    },
  },
  {
    name: 'core-uses-no-node-builtins',
    severity: 'error',
    from: { path: '^src/(core|engine|state|ui)/', pathNot: '\\.test(ing)?\\.ts$' },
    to: { dependencyTypes: ['core'] },
  },
  {
    name: 'rendering-imports-core-and-what-prints-or-plays',
    severity: 'error',
    from: { path: '^src/rendering/' },
    to: { path: '^src/(engine/(?!print/|soundFiles/|hearing/|engraver/verovio)|state|ui|app|server|cli)/' },
  },
  {
    name: 'cli-imports-core-and-rendering',
    severity: 'error',
    from: { path: '^src/cli/' },
    to: { path: '^src/(engine/(?!engraver/verovio)|state|ui|app|server)/' },
  },
  {
    name: 'server-imports-core-and-rendering',
    severity: 'error',
    from: { path: '^src/server/' },
    to: { path: '^src/(engine|state|ui|app|cli)/' },
  },
  {
    name: 'only-routes-import-the-server',
    severity: 'error',
    from: { path: '^src/(core|engine|state|ui)/' },
    to: { path: '^src/server/' },
  },
  {
    name: 'offline-imports-nothing-of-the-program',
    severity: 'error',
    from: { path: '^src/offline/' },
    to: { path: '^src/(?!offline/)' },
  },
  {
    name: 'checks-come-from-one-place',
    comment: 'core/border/checks.ts sets the library up before the first check is made.',
    severity: 'error',
    from: { path: '^src/', pathNot: '^src/core/border/checks\\.ts$' },
    to: { path: 'node_modules/zod/' },
  },
  { name: 'no-cycles', severity: 'error', from: { path: '^src/' }, to: { circular: true } },
)
module.exports = {
  forbidden,
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
  },
}
