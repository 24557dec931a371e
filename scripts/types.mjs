/** Type-checks every floor. */
import { spawnSync } from 'node:child_process'
import { bin, ensureDependencies, fail, root, run } from './deps.mjs'
import { ensurePrepared } from './prepared.mjs'

ensureDependencies()
ensurePrepared()
run(bin('tsc'), ['-p', 'core/tsconfig.json'])
run(bin('tsc'), ['-p', 'core/kernels/tsconfig.json', '--noEmit'])
run(bin('tsc'), ['-p', 'tsconfig.tools.json'])
// The app checks index access more strictly than core's inner loops do (see docs), and vue-tsc has one
// setting for all it reaches: so what it says of core, which has been checked above, does not count.
const { stdout, status } = spawnSync(
  bin('vue-tsc'),
  ['--noEmit', '-p', 'tsconfig.app.json', '--pretty', 'false'],
  {
    cwd: root,
    encoding: 'utf8',
  },
)
const own = stdout.split('\n').filter((line) => /^(app|server)\//.test(line))
for (const line of own) console.log(line)
if (own.length || (status !== 0 && !stdout.includes('core/')))
  fail(`${own.length} type errors in app and server.`)
