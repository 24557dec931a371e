/** The rooms of core, from the top down. A room imports only from those below it, and within its own row only from itself. */
const rows = [
  ['lab', 'chain-module', 'search'],
  ['render', 'analysis', 'variation'],
  ['engine'],
  ['formats'],
  ['project'],
  ['effects', 'modulators', 'sources'],
  ['contract'],
  ['dsp', 'units'],
]
const upwards = rows.flatMap((row, i) => row.map((room) => {
  // units and dsp build on each other: a scale needs exp2, a crossover none of it
  const beside = i === rows.length - 1 ? [] : row.filter((other) => other !== room)
  const above = [...rows.slice(0, i).flat(), ...beside]
  return { name: `core-${room}-imports-downwards`, severity: 'error', from: { path: `^core/src/${room}/` }, to: { path: `^core/src/(${above.join('|') || 'none'})/` } }
}))

/** The layers of the app, from the top down. A layer imports only from those below it, types included. */
const layers = [
  ['pages', 'layouts', 'plugins'],
  ['components/(bench|devices|dialogs|dock|guide|lab|links|render|shelf|timeline|tryouts)'],
  ['components/(listening|pictures)'],
  ['components/ui'],
  ['commands'],
  ['composables'],
  ['services'],
  ['stores'],
  ['audio', 'devices', 'drawing', 'focus', 'storage', 'workers', 'worklet', 'chain-module'],
  ['contract'],
]
const appUpwards = layers.flatMap((row, i) => row.map((layer) => ({
  name: `app-${layer.replace(/\W+/g, '-')}-imports-downwards`,
  severity: 'error',
  from: { path: `^app/${layer}/` },
  to: { path: `^app/(${[...layers.slice(0, i).flat(), 'test'].join('|')})/` },
})))
/** Every file of the app lies in a room that the list knows. */
const rooms = { name: 'app-room-is-known', severity: 'error', from: { path: '^app/', pathNot: `^app/(${layers.flat().join('|')}|test|assets)/|^app/app.vue$` }, to: {} }
const roomsReached = { name: 'app-room-reached-is-known', severity: 'error', from: {}, to: { path: '^app/', pathNot: `^app/(${layers.flat().join('|')}|test|assets)/|^app/app.vue$` } }

/** Three floors, and imports only go down. */
module.exports = {
  forbidden: [
    { name: 'core-stands-alone', severity: 'error', from: { path: '^core/src' }, to: { path: '^(app|server|cli|demo|bench|e2e|scripts)/' } },
    { name: 'core-knows-no-platform', severity: 'error', from: { path: '^core/src' }, to: { dependencyTypes: ['core'] } },
    { name: 'core-has-no-interface', severity: 'error', from: { path: '^core/src' }, to: { path: 'node_modules/(vue|nuxt|pinia|@vueuse|echarts|h3)/' } },
    ...upwards,
    ...appUpwards,
    rooms,
    roomsReached,
    { name: 'app-and-server-apart', severity: 'error', from: { path: '^app/' }, to: { path: '^(server|cli|demo|bench)/' } },
    { name: 'server-not-app', severity: 'error', from: { path: '^server/' }, to: { path: '^(app|cli|bench)/' } },
    // a node holds nodes: the types of its kinds are recursive, and nothing else is
    { name: 'no-circles-types-included', severity: 'error', from: { path: '^(core/src|server|cli)', pathNot: '^core/src/project/nodes/' }, to: { circular: true } },
    { name: 'no-circles-of-node-kinds', severity: 'error', from: { path: '^core/src/project/nodes/' }, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
    { name: 'no-circles-in-the-app-types-included', severity: 'error', from: { path: '^app' }, to: { circular: true } },
  ],
  options: { doNotFollow: { path: 'node_modules' }, tsPreCompilationDeps: true, tsConfig: { fileName: 'tsconfig.tools.json' }, exclude: { path: '\\.nuxt|\\.output|dist|test' } },
}
