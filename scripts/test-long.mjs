/**
 * `npm run test:long`: what is long by nature, in its long form. It takes hours; it is run before a release
 * and when its area changes.
 */
import { bin, ensureDependencies, run, say } from './deps.mjs'

ensureDependencies()
// tests that count their rounds take this number of them; others only see that there is one
const rounds = process.argv[2] ?? '1000'
say(`the long forms, ${rounds} rounds where rounds are counted`)
run(bin('vitest'), ['run', '--testTimeout', String(6 * 3600_000), '--reporter=verbose'], {
  OLEAJE_LONG: rounds,
})
const { ensureBuilt } = await import('./build.mjs')
const { serve } = await import('./serve.mjs')
await ensureBuilt()
const PORT = 4645
const server = await serve(PORT, true)
try {
  run(bin('playwright'), ['test', '-c', 'e2e/playwright.config.ts', '--timeout', String(3600_000)], {
    OLEAJE_LONG: rounds,
    OLEAJE_URL: `http://127.0.0.1:${PORT}`,
    OLEAJE_WORKERS: '1',
  })
} finally {
  server.kill()
}
