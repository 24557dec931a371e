/** Type-checks every floor. */
import { existsSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { spawnSync } from 'node:child_process'
import { bin, ensureDependencies, fail, root, run } from './deps.mjs'

ensureDependencies()
// what the modules of the app declare is written anew when they have changed
const prepared = join(root, '.nuxt/tsconfig.json')
const age = (name) => statSync(join(root, name)).mtimeMs
if (!existsSync(prepared) || ['nuxt.config.ts', 'package-lock.json'].some((name) => age(name) > statSync(prepared).mtimeMs))
  run(bin('nuxt'), ['prepare', '--logLevel', 'silent'])
run(bin('tsc'), ['-p', 'core/tsconfig.json'])
run(bin('tsc'), ['-p', 'tsconfig.tools.json'])
// The app checks index access more strictly than core's inner loops do (see docs), and vue-tsc has one setting for all it
// reaches: so what it says of core, which has been checked above, does not count.
const { stdout, status } = spawnSync(bin('vue-tsc'), ['--noEmit', '-p', 'tsconfig.app.json', '--pretty', 'false'], {
  cwd: root,
  encoding: 'utf8',
})
const own = stdout.split('\n').filter((line) => /^(app|server)\//.test(line))
for (const line of own) console.log(line)
if (own.length || (status !== 0 && !stdout.includes('core/'))) fail(`${own.length} type errors in app and server.`)
