/**
 * Makes sure that node_modules holds what package-lock.json says. Prints what it does; does nothing when it
 * is there.
 */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createHash } from 'node:crypto'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

// a bundled program says where the project is; a script stands in it
export const root = process.env.OLEAJE_ROOT ?? fileURLToPath(new URL('..', import.meta.url))

export function say(text) {
  console.log(`· ${text}`)
}

export function fail(text) {
  console.error(`✗ ${text}`)
  process.exit(1)
}

/** Runs a program in the project's folder with its output shown; throws when it fails. */
export function run(program, args, env = {}) {
  execFileSync(program, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } })
}

export const bin = (name) => join(root, 'node_modules', '.bin', name)

export function ensureDependencies() {
  if (Number(process.versions.node.split('.')[0]) < 20)
    fail(`Oleaje needs Node 20 or newer; this is ${process.version}.`)
  const stamp = join(root, 'node_modules', '.oleaje-installed')
  const wanted = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  say('installing packages')
  // the stamp goes first and comes last, so that a broken install is done again
  rmSync(stamp, { force: true })
  try {
    // not `npm ci`: it refuses a lock file made where the registry offers packages for some platforms only
    run('npm', ['install', '--no-save', '--no-fund', '--no-audit', '--loglevel=error'])
  } catch {
    fail(
      'npm install failed; its reason stands above. Nothing else was changed; run the command again once it is put right.',
    )
  }
  mkdirSync(join(root, 'node_modules'), { recursive: true })
  writeFileSync(stamp, wanted)
}
