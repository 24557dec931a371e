/** `npm run demo`: installs what is missing, builds when needed, serves the app with the demo. */
import { ensureBuilt } from './build.mjs'
import { fail, say } from './deps.mjs'
import { codeOf } from './end-with.mjs'
import { serve } from './serve.mjs'

const at = process.argv.indexOf('--port')
const port = Number(at > 0 ? process.argv[at + 1] : (process.env.PORT ?? 4620))
if (!Number.isInteger(port) || port < 1 || port > 65535) fail('--port wants a number from 1 to 65535.')
await ensureBuilt()
try {
  const server = await serve(port, true)
  say(`Oleaje with the Night Ferry demo: http://localhost:${port}  (Ctrl+C ends it)`)
  server.on('exit', (code, signal) => process.exit(signal ? 0 : codeOf(code, signal)))
} catch (error) {
  fail(error.message)
}
