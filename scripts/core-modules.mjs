/**
 * Core as modules that Node loads by itself. Vitest's own loader turns every call from one module into
 * another into a look-up, which makes the sound loops take half as long again; the app and the renderer run
 * bundles as well.
 */
import { buildSync } from 'esbuild'
import { readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './deps.mjs'

/** Builds them and gives their folder. One file for each of core's, and one state for all of them. */
export function coreModules() {
  const sources = join(root, 'core/src')
  const folder = join(root, 'node_modules/.cache/core')
  const entryPoints = readdirSync(sources, { recursive: true })
    .filter((name) => name.endsWith('.ts'))
    .map((name) => join(sources, name))
  rmSync(folder, { recursive: true, force: true })
  buildSync({
    entryPoints,
    outdir: folder,
    outbase: sources,
    outExtension: { '.js': '.mjs' },
    format: 'esm',
    platform: 'node',
    target: 'node20',
    bundle: true,
    splitting: true,
    packages: 'external',
    sourcemap: 'inline',
  })
  return folder
}
