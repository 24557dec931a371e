/** Bundles one TypeScript program for Node and runs it: `node scripts/run-ts.mjs ENTRY [ARGUMENTS]`. */
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { ensureDependencies, root } from './deps.mjs'
import { codeOf, endWith } from './end-with.mjs'

const [entry, ...args] = process.argv.slice(2)
ensureDependencies()
const { build } = await import('esbuild')
const outfile = join(
  root,
  'node_modules',
  '.cache',
  'oleaje',
  `${entry.replaceAll('/', '-').replace(/\.ts$/, '')}.mjs`,
)
await build({
  entryPoints: [join(root, entry)],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  alias: { '@oleaje/core': join(root, 'core/src') },
  logLevel: 'error',
})
const child = spawn(process.execPath, ['--enable-source-maps', outfile, ...args], {
  stdio: 'inherit',
  env: { ...process.env, OLEAJE_ROOT: root },
})
endWith(child)
child.on('exit', (code, signal) => process.exit(codeOf(code, signal)))
