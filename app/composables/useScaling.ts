import { setAmounts } from '@oleaje/core/project/motion-edits'
import { factor as factorSpec } from '@oleaje/core/units/parameter'
import { ref } from 'vue'
import { AmountScaling } from './amount-scaling'
import { useSession } from './useSession'

const spec = factorSpec('Factor for amounts', { min: 0, max: 10, default: 1 })

/** The factor that a table offers, and what scales the amounts of its links by it. */
export function useScaling() {
  const { doc } = useSession()
  const factor = ref(0.8)
  /** Whether what stands in the field is no factor. */
  const refused = ref(false)
  const scaling = new AmountScaling()

  function scale(ids: readonly string[]): void {
    if (refused.value) return
    const chosen = new Set(ids)
    const now = new Map(doc.project?.links.filter((l) => chosen.has(l.id)).map((l) => [l.id, l.amount]))
    doc.edit('Scale amounts', setAmounts(scaling.by(factor.value, now)))
  }

  return { factor, refused, scale, spec }
}
