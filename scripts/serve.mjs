/** Starts the built server on a port and waits until it answers. */
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { root } from './deps.mjs'

export async function serve(port, quiet = false) {
  const child = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    cwd: root,
    stdio: quiet ? ['ignore', 'ignore', 'inherit'] : 'inherit',
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
  throw new Error(`The server did not start on port ${port}; is the port taken? Choose another with --port.`)
}
