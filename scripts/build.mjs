/** Builds the app and the render worker, when anything that they are made of has changed. */
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { bin, ensureDependencies, fail, root, say } from './deps.mjs'
import { runWith } from './end-with.mjs'

const stamp = join(root, '.output', '.built-from')

export async function ensureBuilt() {
  ensureDependencies()
  const wanted = fingerprint([
    'core/src',
    'app',
    'server',
    'public',
    'demo/assets',
    'scripts',
    'nuxt.config.ts',
    'package-lock.json',
  ])
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  say('building the app')
  rmSync(stamp, { force: true })
  try {
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
    await runWith(bin('nuxt'), ['build', '--logLevel', 'silent'], {
      cwd: root,
      env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' },
    })
  } catch (error) {
    fail(`The build failed: ${error.message.split('\n')[0]}`)
  }
  writeFileSync(stamp, wanted)
}

/** Hash over names, sizes and contents of all files below some places. */
function fingerprint(places) {
  const hash = createHash('sha256')
  const visit = (path) => {
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) visit(join(path, name))
    else hash.update(path.slice(root.length)).update(readFileSync(path))
  }
  for (const place of places) visit(join(root, place))
  return hash.digest('hex')
}

if (process.argv[1]?.endsWith('build.mjs')) await ensureBuilt()
