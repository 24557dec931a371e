/** What the modules of the app declare, as types: written anew when they have changed. */
import { existsSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { bin, root, run } from './deps.mjs'

export function ensurePrepared() {
  const prepared = join(root, '.nuxt/tsconfig.json')
  const age = (name) => statSync(join(root, name)).mtimeMs
  const isThere = existsSync(prepared) && existsSync(join(root, '.nuxt/tsconfig.app.json'))
  if (
    isThere &&
    ['nuxt.config.ts', 'package-lock.json'].every((name) => age(name) <= statSync(prepared).mtimeMs)
  )
    return
  run(bin('nuxt'), ['prepare', '--logLevel', 'silent'])
}
