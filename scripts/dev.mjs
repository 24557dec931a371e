/** `npm run dev`: the dev server, with the render worker built once beside it. */
import { bin, ensureDependencies, root, run } from './deps.mjs'
import { join } from 'node:path'

ensureDependencies()
const { build } = await import('esbuild')
await build({
  entryPoints: [join(root, 'server/rendering/worker.ts')],
  outfile: join(root, 'dist/render-worker.mjs'),
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  alias: { '@oleaje/core': join(root, 'core/src') },
  logLevel: 'error',
})
run(bin('nuxt'), ['dev', ...process.argv.slice(2)], { NUXT_TELEMETRY_DISABLED: '1' })
