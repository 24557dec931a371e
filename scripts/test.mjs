/**
 * `npm test`: installs what is missing, type-checks, lints, runs Vitest, then Playwright against the built
 * app.
 */
import { spawn, spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { ensureBuilt } from './build.mjs'
import { chromiumVersion, findChromium } from './chromium.mjs'
import { bin, ensureDependencies, root, say } from './deps.mjs'
import { serve } from './serve.mjs'

const PORT = 4640
ensureDependencies()
const reports = join(root, 'test-results')
rmSync(reports, { recursive: true, force: true })
mkdirSync(reports, { recursive: true })
let broken = false

function step(name, program, args, env = {}) {
  say(name)
  const { status } = spawnSync(program, args, {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, ...env },
  })
  if (status !== 0) {
    broken = true
    console.error(`✗ ${name} failed`)
  }
}

/** A step of which others may run beside: what it says is shown when it has ended. */
function beside(name, program, args) {
  const child = spawn(program, args, { cwd: root })
  let text = ''
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part) => {
      text += part
    })
  return new Promise((resolve) =>
    child.on('close', (status) => {
      say(name)
      process.stdout.write(text)
      if (status !== 0) {
        broken = true
        console.error(`✗ ${name} failed`)
      }
      resolve()
    }),
  )
}

say(chromiumVersion(findChromium()))
// the build writes the types of the app anew, so they are checked after it
const built = beside('building the app', process.execPath, ['scripts/build.mjs'])
await Promise.all([
  built.then(() => beside('checking types', process.execPath, ['scripts/types.mjs'])),
  beside('linting', 'npm', ['run', '--silent', 'lint']),
  beside('checking that the SIMD kernels are the ones in the source', process.execPath, [
    'scripts/wasm.mjs',
    '--check',
  ]),
])
step('running Vitest', bin('vitest'), [
  'run',
  '--reporter=dot',
  '--reporter=json',
  `--outputFile.json=${join(reports, 'vitest.json')}`,
])
await ensureBuilt()
say('running Playwright against the built app')
const server = await serve(PORT, true)
/** More failures than these are no matter of the machine. */
const FEW = 5
/** Browser tests that failed beside others and passed when they had the machine to themselves. */
const passedAlone = []
const reportOf = (file) => JSON.parse(readFileSync(join(reports, file), 'utf8'))
const browserRun = (file, workers, which) =>
  spawnSync(bin('playwright'), ['test', '-c', 'e2e/playwright.config.ts', ...which], {
    cwd: root,
    stdio: 'inherit',
    env: {
      ...process.env,
      OLEAJE_URL: `http://127.0.0.1:${PORT}`,
      OLEAJE_REPORT: join(reports, file),
      OLEAJE_WORKERS: String(workers),
    },
  }).status === 0

/**
 * Browser tests of one kind, so many at once. The host of a machine may take the processor away for seconds,
 * so a few that fail are run once more, one at a time, and named at the end in either case.
 */
function browserTests(name, file, workers, which) {
  say(name)
  if (browserRun(file, workers, which)) return
  const failed = failedIn(file)
  if (failed.length > 0 && failed.length <= FEW) {
    say(`once more, one at a time: ${failed.length} that failed`)
    const isWell = browserRun(`again-${file}`, 1, ['--last-failed'])
    const still = new Set(failedIn(`again-${file}`))
    const mended = failed.filter((test) => !still.has(test))
    passedAlone.push(...mended)
    if (isWell && mended.length === failed.length) return
  }
  broken = true
  console.error(`✗ ${name} failed`)
}
/** Names of the tests that failed in a report; all of them in one where nothing was written. */
function failedIn(file) {
  const specs = (suite) => [...(suite.specs ?? []), ...(suite.suites ?? []).flatMap(specs)]
  try {
    return reportOf(file)
      .suites.flatMap(specs)
      .filter((spec) => !spec.ok)
      .map((spec) => `${spec.file}: ${spec.title}`)
  } catch {
    return []
  }
}
browserTests('Playwright', 'e2e.json', 2, ['--grep-invert', '@alone'])
browserTests('Playwright, what judges lateness, floods, memory or recording', 'e2e-alone.json', 1, [
  '--grep',
  '@alone',
])
server.kill()

/** Lists the slowest tests and repeats every failure, so that the end of a long log names both. */
function summarise() {
  const tests = []
  const failures = []
  const fromSuite = (suite) => {
    for (const inner of suite.suites ?? []) fromSuite(inner)
    for (const spec of suite.specs ?? []) {
      if (!spec.ok && !passedAlone.includes(`${spec.file}: ${spec.title}`))
        failures.push([
          `${spec.file}: ${spec.title}`,
          spec.tests.flatMap((t) => t.results).flatMap((r) => r.errors ?? [])[0]?.message ?? '',
        ])
      tests.push({
        name: spec.title,
        file: spec.file,
        ms: spec.tests.flatMap((t) => t.results).reduce((sum, r) => sum + r.duration, 0),
      })
    }
  }
  try {
    for (const { name, assertionResults, status, message } of reportOf('vitest.json').testResults) {
      const file = name.slice(root.length + 1)
      if (status === 'failed' && !assertionResults.length) failures.push([file, message])
      for (const a of assertionResults) {
        if (a.status === 'failed') failures.push([`${file}: ${a.fullName}`, a.failureMessages[0] ?? ''])
        tests.push({ name: a.fullName, file, ms: a.duration ?? 0 })
      }
    }
    for (const file of ['e2e.json', 'e2e-alone.json'])
      for (const suite of reportOf(file).suites) fromSuite(suite)
  } catch {
    return
  }
  say(`${Math.round(performance.now() / 1000)} s in all; the ten slowest tests:`)
  for (const { name, file, ms } of tests.sort((a, b) => b.ms - a.ms).slice(0, 10))
    console.log(`  ${(ms / 1000).toFixed(1).padStart(6)} s  ${file}: ${name.slice(0, 100)}`)
  for (const name of passedAlone) console.log(`· failed beside others, passed alone: ${name}`)
  for (const [name, message] of failures)
    console.log(`✗ ${name}\n  ${message.split('\n').slice(0, 12).join('\n  ')}`)
}

/** Passed and failed tests of a report; a report that is missing is one failure. */
function count(file, read) {
  try {
    return read(JSON.parse(readFileSync(join(reports, file), 'utf8')))
  } catch {
    console.error(`✗ ${file} was not written`)
    return { passed: 0, failed: 1 }
  }
}
const unit = count('vitest.json', (r) => ({
  passed: r.numPassedTests,
  failed:
    r.numFailedTests +
    r.testResults.filter((t) => t.status === 'failed' && t.assertionResults.length === 0).length,
}))
const inBrowser = (r) => ({
  passed: r.stats.expected,
  failed: r.stats.unexpected + r.stats.flaky + r.errors.length,
})
const counts = [unit, count('e2e.json', inBrowser), count('e2e-alone.json', inBrowser)]
const passed = counts.reduce((sum, c) => sum + c.passed, 0) + passedAlone.length
const failed = counts.reduce((sum, c) => sum + c.failed, 0) - passedAlone.length
summarise()
if (broken && failed === 0) console.error('✗ a step before the tests failed; see above')
console.log(`tests: ${passed} passed, ${failed} failed`)
process.exit(broken || failed ? 1 : 0)
