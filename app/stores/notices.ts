import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** What must be said, whatever is looked at. */
export const useNotices = defineStore('notices', () => {
  /** Whether the output's clock stands still though sound is wanted, as without an output device. */
  const noOutput = ref(false)
  /** A sound that is being brought in: how much of it is done, 0…1, and how to stop it. */
  const bringing = shallowRef<{
    readonly name: string
    readonly done: number
    readonly stop: () => void
  } | null>(null)
  /** What is wrong where the project takes more than there is, and so is not heard whole. */
  const overBudget = ref('')
  /** Nodes that their guard has cut, the last one first, until a person lets them sound again. */
  const cut = shallowRef<readonly string[]>([])
  /** What failed while it played and was cut, by owner; the last one. */
  const failed = ref<string | null>(null)
  /** Whether sound went round from the output into the input. */
  const howls = ref(false)
  /** Whether a feedback loop goes on sounding after Stop. */
  const rings = ref(false)
  /** The engine has more to do than it has time for: the effect that costs most, and what would cost less. */
  const overload = shallowRef<{
    readonly node: string
    readonly name: string
    readonly track: { readonly id: string; readonly name: string }
    /** Share of a core. */
    readonly share: number
    readonly better: { readonly value: number; readonly name: string } | null
  } | null>(null)
  /** What is said to who cannot see it. */
  const spoken = ref('')

  /** Resets the notices when another project is opened. */
  function clear(): void {
    cut.value = []
    failed.value = overload.value = null
    howls.value = rings.value = false
  }
  return { noOutput, bringing, overBudget, cut, failed, howls, rings, overload, spoken, clear }
})
