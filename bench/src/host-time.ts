import { readFileSync, readdirSync } from 'node:fs'

/**
 * Time that the host of this virtual machine has taken from it, in ticks of 10 ms; 0 where the system does
 * not say.
 */
export function takenByHost(): number {
  try {
    return Number(readFileSync('/proc/stat', 'utf8').split('\n')[0]?.split(/\s+/)[8] ?? 0)
  } catch {
    return 0
  }
}

/**
 * How long a thread has run, without what the host took, and how long it was ready and waited for a core, in
 * ms.
 */
export interface ThreadTime {
  readonly ran: number
  readonly waited: number
}

/**
 * The time of the browser's thread of the sound: of several, of the one that has run longest. Null where the
 * system does not tell.
 */
export function soundThread(): (() => ThreadTime) | null {
  let best: { read: () => ThreadTime; ran: number } | null = null
  for (const pid of list('/proc').filter((name) => /^\d+$/.test(name))) {
    for (const tid of list(`/proc/${pid}/task`)) {
      const at = `/proc/${pid}/task/${tid}`
      if (!text(`${at}/comm`).startsWith('Realtime AudioW')) continue
      const read = (): ThreadTime => {
        const [ran = NaN, waited = NaN] = text(`${at}/schedstat`)
          .split(' ')
          .map((ns) => Number(ns) / 1e6)
        return { ran, waited }
      }
      const { ran } = read()
      if (ran > (best?.ran ?? 0)) best = { read, ran }
    }
  }
  return best?.read ?? null
}

function list(folder: string): string[] {
  try {
    return readdirSync(folder)
  } catch {
    return []
  }
}

function text(file: string): string {
  try {
    return readFileSync(file, 'utf8')
  } catch {
    return ''
  }
}
