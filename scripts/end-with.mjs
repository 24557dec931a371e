/** Has a child process end with this one, however this one is ended. */
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { constants } from 'node:os'

const SIGNALS = ['SIGINT', 'SIGTERM', 'SIGHUP']
/** Time that a child has to end by itself before it is killed, in ms. */
const GRACE_MS = 2000
const LOOK_MS = 400

/**
 * Passes signals on to a child, ends it with this process, and ends this process with it: by the same code,
 * or as a signal would.
 */
export function endWith(child) {
  const pass = (signal) => {
    child.kill(signal === 'SIGHUP' ? 'SIGTERM' : signal)
    setTimeout(() => child.kill('SIGKILL'), GRACE_MS).unref()
  }
  for (const signal of SIGNALS) process.on(signal, pass)
  const kill = () => child.kill('SIGKILL')
  process.on('exit', kill)
  // npm and the shell in between may end without passing a signal on: then somebody further up has another
  // parent
  const before = ancestry()
  const watch = setInterval(() => {
    if (ancestry() !== before) pass('SIGTERM')
  }, LOOK_MS)
  child.on('exit', () => {
    for (const signal of SIGNALS) process.off(signal, pass)
    process.off('exit', kill)
    clearInterval(watch)
  })
}

/** The parent of this process and, where the system tells, the parent of that: npm, behind its shell. */
function ancestry() {
  try {
    // after the name, which may hold anything, in brackets: state, parent
    const [, parent] = readFileSync(`/proc/${process.ppid}/stat`, 'utf8').split(') ').at(-1).split(' ')
    return `${process.ppid} ${parent}`
  } catch {
    return String(process.ppid)
  }
}

/** Runs a program with its output shown, and has it end with this process. Rejects where it fails. */
export const runWith = (program, args, options = {}) =>
  new Promise((resolve, reject) => {
    const child = spawn(program, args, { stdio: 'inherit', ...options })
    endWith(child)
    child.on('error', reject)
    child.on('exit', (code, signal) =>
      code === 0 ? resolve() : reject(new Error(`${program} ended with ${signal ?? code}.`)),
    )
  })

/** The exit code of a child that has ended, by itself or by a signal. */
export const codeOf = (code, signal) => code ?? 128 + (constants.signals[signal] ?? 0)
