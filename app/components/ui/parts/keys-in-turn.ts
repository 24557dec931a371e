const WALKS = new Set(['ArrowDown', 'ArrowUp', 'Home', 'End', 'PageDown', 'PageUp'])

/**
 * Lets each key that walks through a list take effect before the next one, or Enter, arrives. A list that
 * moves its highlight with the next frame would else lose one of two quick steps, and Enter would choose what
 * is no longer highlighted.
 */
export class KeysInTurn {
  private isWalking = false
  private waiting: KeyboardEvent[] = []

  /** Takes a key before the list does. */
  readonly take = (e: KeyboardEvent): void => {
    const isWalk = WALKS.has(e.key)
    if (!isWalk && e.key !== 'Enter') return
    if (this.isWalking) {
      e.preventDefault()
      e.stopImmediatePropagation()
      this.waiting.push(e)
    } else if (isWalk) {
      this.isWalking = true
      // the list asks for its frame after this, so it has moved once this frame is over
      requestAnimationFrame(() => setTimeout(this.next))
    }
  }

  private readonly next = (): void => {
    this.isWalking = false
    while (!this.isWalking) {
      const e = this.waiting.shift()
      if (!e) return
      // a field that is gone takes no more
      if ((e.target as Element).isConnected) e.target?.dispatchEvent(new KeyboardEvent(e.type, e))
    }
  }
}
