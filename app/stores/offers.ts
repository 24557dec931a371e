import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

/** So long a removal can be taken back, in ms. */
const UNDO_MS = 12_000

/** Something that was removed, is not in the history, and can be brought back for a while. */
export const useOffers = defineStore('offers', () => {
  const removed = shallowRef<{
    readonly text: string
    readonly undo: () => Promise<unknown>
    readonly lapse: () => unknown
  } | null>(null)
  let lapsing: ReturnType<typeof setTimeout> | undefined

  /** Offers to take a removal back; after a while, or for the next one, it lapses. */
  function offerUndo(text: string, undo: () => Promise<unknown>, lapse: () => unknown = () => {}): void {
    settleRemoved(false)
    removed.value = { text, undo, lapse }
    lapsing = setTimeout(() => settleRemoved(false), UNDO_MS)
  }
  function settleRemoved(takesBack: boolean): void {
    clearTimeout(lapsing)
    const offer = removed.value
    removed.value = null
    if (offer) void (takesBack ? offer.undo() : offer.lapse())
  }
  return { removed, offerUndo, settleRemoved }
})
