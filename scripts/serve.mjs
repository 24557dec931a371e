/** Starts the built server on a port and waits until it answers. */
import { spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { root } from './deps.mjs'
import { endWith } from './end-with.mjs'

/** Whether nobody listens on a port of this machine. */
const isFree = (port) =>
  new Promise((resolve) => {
    const probe = createServer()
    probe.once('error', () => resolve(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)))
  })

/** The first free port after one. */
async function freeAfter(port) {
  for (let next = port + 1; next < Math.min(port + 100, 65536); next++) if (await isFree(next)) return next
  return undefined
}

/** @throws Error with a sentence where the port is taken, or the server does not come up */
export async function serve(port, quiet = false) {
  if (!(await isFree(port))) {
    const free = await freeAfter(port)
    throw new Error(
      `Port ${port} is taken.${free ? ` Port ${free} is free: add -- --port ${free}.` : ' Choose another with -- --port N.'}`,
    )
  }
  const child = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    cwd: root,
    stdio: [quiet ? 'ignore' : 'inherit', quiet ? 'ignore' : 'inherit', 'inherit', 'ipc'],
    env: {
      ...process.env,
      NODE_ENV: 'production',
      PORT: String(port),
      HOST: '127.0.0.1',
      NITRO_PORT: String(port),
      NITRO_HOST: '127.0.0.1',
      OLEAJE_RENDER_WORKER: join(root, 'dist/render-worker.mjs'),
    },
  })
  endWith(child)
  let ended = false
  child.on('exit', () => {
    ended = true
  })
  for (let i = 0; i < 200 && !ended; i++) {
    try {
      if ((await fetch(`http://127.0.0.1:${port}/api/health`)).ok) return child
    } catch {
      /* not up yet */
    }
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  child.kill()
  throw new Error(`The server did not start on port ${port}.`)
}
