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
  /** What is said to who cannot see it. */
  const spoken = ref('')

  /** Another project is open: no effect of it has been cut. */
  function clear(): void {
    cut.value = []
  }
  return { noOutput, bringing, overBudget, cut, spoken, clear }
})
