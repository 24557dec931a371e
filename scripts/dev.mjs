/** `npm run dev`: the dev server, with the render worker built once beside it. */
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { bin, ensureDependencies, root } from './deps.mjs'
import { codeOf, endWith } from './end-with.mjs'

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
const child = spawn(bin('nuxt'), ['dev', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' },
})
endWith(child)
child.on('exit', (code, signal) => process.exit(signal ? 0 : codeOf(code, signal)))
