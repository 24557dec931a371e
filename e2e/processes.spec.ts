import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { expect, test } from './fixtures'

const root = join(import.meta.dirname, '..')
const PORT = 4671

const answers = (port = PORT): Promise<boolean> =>
  fetch(`http://127.0.0.1:${port}/api/health`).then(
    (r) => r.ok,
    () => false,
  )

/** `npm run demo`, as a person starts it; gives what it says. */
function demo(port = PORT): { child: ChildProcess; said: () => string; code: Promise<number | null> } {
  const child = spawn('npm', ['run', '--silent', 'demo', '--', '--port', String(port)], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'pipe'],
    detached: true,
  })
  let text = ''
  for (const stream of [child.stdout, child.stderr])
    stream?.on('data', (part) => {
      text += String(part)
    })
  return { child, said: () => text, code: new Promise((resolve) => child.on('exit', resolve)) }
}

for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP', 'SIGKILL'] as const)
  test(`the server is gone after ${signal} to npm run demo`, async () => {
    const { child, said } = demo()
    await expect.poll(said, { intervals: [100], timeout: 60_000 }).toContain(`http://localhost:${PORT}`)
    expect(await answers()).toBe(true)
    // Ctrl+C goes to all that the terminal has started
    if (signal === 'SIGINT') process.kill(-(child.pid ?? 0), signal)
    else child.kill(signal)
    await expect.poll(() => answers(), { intervals: [100], timeout: 20_000 }).toBe(false)
  })

for (const signal of ['SIGTERM', 'SIGKILL'] as const)
  test(`a build that is under way is gone after ${signal} to the command that runs it`, async () => {
    // stands for the build: anything that runs for minutes, under a number of its own
    const seconds = `${300 + Math.random()}`
    const script = `import('./scripts/end-with.mjs').then((m) => m.runWith('sleep', ['${seconds}'])).catch(() => process.exit(1))`
    const child = spawn('sh', ['-c', `node -e "${script}"; true`], { cwd: root, stdio: 'ignore' })
    const runs = (): boolean =>
      execFileSync('ps', ['-eo', 'args'], { encoding: 'utf8' }).split('\n').includes(`sleep ${seconds}`)
    await expect.poll(runs, { intervals: [100] }).toBe(true)
    child.kill(signal)
    await expect.poll(runs, { intervals: [100], timeout: 20_000 }).toBe(false)
  })

test('a port that is taken is said with its number and a free one, without a stack, and nothing is said to be served', async () => {
  const other = createServer()
  await new Promise<void>((resolve) => other.listen(PORT + 1, '127.0.0.1', resolve))
  try {
    const { said, code } = demo(PORT + 1)
    expect(await code).not.toBe(0)
    expect(said()).toMatch(new RegExp(`Port ${PORT + 1} is taken\\. Port \\d+ is free`))
    expect(said()).not.toMatch(/localhost|\bat .*\.mjs/)
  } finally {
    other.close()
  }
})
