import { together } from '@oleaje/core/project/edit'
import { targetAt } from '@oleaje/core/project/param-path'
import { findTarget } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { ValueTextError, parseValue } from '@oleaje/core/units/text'
import type { TimePair } from '@oleaje/core/contract/effect'
import { useSession } from './useSession'

/** The other one of a rate and its note length, of which one counts. */
export function useOtherOfPair(owner: () => string, param: () => string, pair: () => TimePair | undefined) {
  const { doc } = useSession()

  /** The other parameter, and whether this one is the note length. */
  function of(): { param: string; sync: string; isSynced: boolean } | undefined {
    const both = pair()
    if (!both) return undefined
    const isSynced = param() === both.synced
    return { param: isSynced ? both.free : both.synced, sync: both.sync, isSynced }
  }

  /** Takes text that only makes sense to the other one, which counts from then on; gives whether it does. */
  function type(what: string, label: string): boolean {
    const other = of()
    const there = other && doc.project ? findTarget(doc.project, targetAt(owner(), other.param)) : undefined
    if (!other || !there) return false
    try {
      const typed = parseValue(there.spec, what, there.base)
      doc.edit(
        label,
        together(
          setParam(owner(), other.sync, other.isSynced ? 0 : 1),
          setParam(owner(), other.param, typed),
        ),
      )
      return true
    } catch (error) {
      if (error instanceof ValueTextError) return false
      throw error
    }
  }

  /** Turns a rate into its note length or back. */
  function swap(): void {
    const other = of()
    if (other)
      doc.edit(
        other.isSynced ? 'Change unit' : 'Change to note length',
        setParam(owner(), other.sync, other.isSynced ? 0 : 1),
      )
  }

  return { of, type, swap }
}
