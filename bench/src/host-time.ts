import { readFileSync } from 'node:fs'

/** Time that the host of this virtual machine has taken from it, in ticks of 10 ms; 0 where the system does not say. */
export function takenByHost(): number {
  try {
    return Number(readFileSync('/proc/stat', 'utf8').split('\n')[0]?.split(/\s+/)[8] ?? 0)
  } catch {
    return 0
  }
}
