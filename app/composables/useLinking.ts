import { type Edit, together } from '@oleaje/core/project/edit'
import { addLink } from '@oleaje/core/project/motion-edits'
import { splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import { findTarget } from '@oleaje/core/project/targets'
import { isStepped } from '@oleaje/core/units/parameter'
import { firstRange, isOneSided, isOneSidedType } from './first-range'
import { useSession } from './useSession'

export interface LinkRange {
  readonly from: number
  readonly to: number
}

/** Links modulators to gauges. */
export function useLinking() {
  const { doc, selection } = useSession()

  /** Where a link to a gauge reaches before anybody has said so: a fifth to each side, or what it can do. */
  function rangeOf(modulator: string, key: string, newType?: string): LinkRange | null {
    const [owner, path] = splitGaugeKey(key)
    const target = doc.project && findTarget(doc.project, targetAt(owner, path))
    if (!target || owner === modulator) return null
    if (isStepped(target.spec)) return { from: 0, to: 1 }
    const oneSided = newType ? isOneSidedType(newType) : isOneSided(doc.project, modulator)
    return firstRange(target.spec, target.base, oneSided)
  }

  /**
   * Links a modulator to a gauge, and to all others that are marked. Without a range, it reaches as far as
   * suits the parameter. `first` comes before, in the same step: it may make the modulator, which is of
   * `newType` then.
   */
  function link(
    modulator: string,
    gauge: { readonly key: string; readonly label: string; readonly range?: LinkRange },
    first: Edit = () => {},
    newType?: string,
  ): void {
    const targets = new Set([gauge.key, ...selection.marked])
    const output = selection.inHand === modulator ? (selection.handOutput ?? undefined) : undefined
    const edits = [first]
    for (const key of targets) {
      const usual = rangeOf(modulator, key, newType)
      if (!usual) continue
      const { from, to } = key === gauge.key && gauge.range ? gauge.range : usual
      edits.push(addLink(modulator, targetAt(...splitGaugeKey(key)), from, to, { output }))
    }
    doc.edit(
      targets.size > 1 ? `Link ${targets.size} gauges` : `Link ${gauge.label.toLowerCase()}`,
      together(...edits),
    )
    selection.marked = []
    selection.traced = modulator
  }

  return { link }
}
