import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** What must be said, whatever is looked at. */
export const useNotices = defineStore('notices', () => {
  /** Whether the output's clock stands still though sound is wanted, as without an output device. */
  const noOutput = ref(false)
  /** A sound that is being brought in: how much of it is done, 0…1, and how to stop it. */
  const bringing = shallowRef<{ readonly name: string; readonly done: number; readonly stop: () => void } | null>(null)
  /** What is wrong where the project takes more than there is, and so is not heard whole. */
  const overBudget = ref('')
  /** Runaway effects that the guard has cut, until acknowledged: trips seen so far by node. */
  const acknowledged = shallowRef<Record<string, number>>({})
  /** What is said to who cannot see it. */
  const spoken = ref('')

  /** Another project is open: no effect of it has been cut. */
  function clear(): void {
    acknowledged.value = {}
  }
  return { noOutput, bringing, overBudget, acknowledged, spoken, clear }
})
