/** Has a child process end with this one, however this one is ended. */
import { constants } from 'node:os'

const SIGNALS = ['SIGINT', 'SIGTERM', 'SIGHUP']
/** Time that a child has to end by itself before it is killed, in ms. */
const GRACE_MS = 2000
const LOOK_MS = 400

/** Passes signals on to a child, ends it with this process, and ends this process with it: by the same code, or as a signal would. */
export function endWith(child) {
  const pass = (signal) => {
    child.kill(signal === 'SIGHUP' ? 'SIGTERM' : signal)
    setTimeout(() => child.kill('SIGKILL'), GRACE_MS).unref()
  }
  for (const signal of SIGNALS) process.on(signal, pass)
  const kill = () => child.kill('SIGKILL')
  process.on('exit', kill)
  // a shell or npm in between may end without passing a signal on: then this process has another parent
  const parent = process.ppid
  const watch = setInterval(() => {
    if (process.ppid !== parent) pass('SIGTERM')
  }, LOOK_MS)
  child.on('exit', () => {
    for (const signal of SIGNALS) process.off(signal, pass)
    process.off('exit', kill)
    clearInterval(watch)
  })
}

/** The exit code of a child that has ended, by itself or by a signal. */
export const codeOf = (code, signal) => code ?? 128 + (constants.signals[signal] ?? 0)
