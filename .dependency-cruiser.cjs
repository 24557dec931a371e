/** Three floors, and imports only go down. */
module.exports = {
  forbidden: [
    { name: 'core-stands-alone', severity: 'error', from: { path: '^core/src' }, to: { path: '^(app|server|cli|demo|bench|e2e|scripts)/' } },
    { name: 'core-knows-no-platform', severity: 'error', from: { path: '^core/src' }, to: { dependencyTypes: ['core'] } },
    { name: 'core-has-no-interface', severity: 'error', from: { path: '^core/src' }, to: { path: 'node_modules/(vue|nuxt|pinia|@vueuse|echarts|h3)/' } },
    { name: 'dsp-knows-no-projects', severity: 'error', from: { path: '^core/src/dsp' }, to: { path: '^core/src/(effects|modulators|sources|project|engine|render)' } },
    { name: 'app-and-server-apart', severity: 'error', from: { path: '^app/' }, to: { path: '^(server|cli|demo|bench)/' } },
    { name: 'server-not-app', severity: 'error', from: { path: '^server/' }, to: { path: '^(app|cli|bench)/' } },
    { name: 'no-circles', severity: 'error', from: { path: '^(core/src|app|server|cli)' }, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
  ],
  options: { doNotFollow: { path: 'node_modules' }, tsPreCompilationDeps: true, tsConfig: { fileName: 'tsconfig.tools.json' }, exclude: { path: '\\.nuxt|\\.output|dist|test' } },
}
