import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

/** So long an offer stands, in ms. */
const STANDS_MS = 12_000

interface Offer {
  readonly text: string
  /** Text of the button and its action. */
  readonly button: string
  readonly tip: string
  readonly accept: () => unknown
  /** Done when the offer lapses. */
  readonly lapse?: () => unknown
}

/** One thing that is offered for a while: a removal to take back, the tempo of a loop. */
export const useOffers = defineStore('offers', () => {
  const standing = shallowRef<Offer | null>(null)
  let lapsing: ReturnType<typeof setTimeout> | undefined

  /** Makes an offer; after a while, or for the next one, it lapses. */
  function offer(made: Offer): void {
    settle(false)
    standing.value = made
    lapsing = setTimeout(() => settle(false), STANDS_MS)
  }
  /** Offers to take back a removal that is not in the history. */
  const offerUndo = (text: string, undo: () => Promise<unknown>, lapse: () => unknown = () => {}): void =>
    offer({ text, button: 'Restore', tip: 'Restores it', accept: undo, lapse })
  function settle(accepts: boolean): void {
    clearTimeout(lapsing)
    const settled = standing.value
    standing.value = null
    if (settled) void (accepts ? settled.accept() : settled.lapse?.())
  }
  return { standing, offer, offerUndo, settle }
})
