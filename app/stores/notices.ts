import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** Notices for all views. */
export const useNotices = defineStore('notices', () => {
  /** Whether the output's clock stands still though sound is wanted, as without an output device. */
  const noOutput = ref(false)
  /** A sound that is being brought in: how much of it is done, 0…1, and how to stop it. */
  const bringing = shallowRef<{
    readonly name: string
    readonly done: number
    readonly stop: () => void
  } | null>(null)
  /** Message where the project exceeds the budget and is not played completely. */
  const overBudget = ref('')
  /** Nodes that their guard has cut, the last one first, until a person lets them sound again. */
  const cut = shallowRef<readonly string[]>([])
  /** Owner of the last step that failed while playing. */
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
  /** Text for screen readers. */
  const spoken = ref('')

  /** Resets the notices when another project is opened. */
  function clear(): void {
    cut.value = []
    failed.value = overload.value = null
    howls.value = rings.value = false
  }
  return { noOutput, bringing, overBudget, cut, failed, howls, rings, overload, spoken, clear }
})
