import { limits } from '@oleaje/core/limits'

/** Renders at once. */
const AT_ONCE = 1
/** Bytes of bundles that may be held at once, by all that wait. */
const ROOM = 128 * 1024 * 1024
const RETRY_SECONDS = 5

/** A request that there is no room for now. The message is a sentence. */
export class QueueFullError extends Error {
  override name = 'QueueFullError'
  readonly retryAfter = RETRY_SECONDS
}

/** A place in the queue: to be left in any case, once. */
export interface Place {
  /** Resolves when it is this one's turn; rejects when the signal ends before. */
  readonly turn: (signal: AbortSignal) => Promise<void>
  readonly leave: () => void
}

interface Waiter {
  readonly client: string
  readonly begin: () => void
}

/**
 * Who renders now and who waits. Of those that wait, the turn goes to the client that was served longest ago,
 * so that one with many requests does not keep the others waiting; among its own, and among those that were
 * never served, the order is that of asking.
 */
export class RenderQueue {
  private readonly waiters: Waiter[] = []
  private readonly served = new Map<string, number>()
  private places = 0
  private held = 0
  private at = 0
  running = 0

  get waiting(): number {
    return this.places - this.running
  }

  /** @throws QueueFullError where there is no place now for a bundle of so many bytes */
  check(bytes: number): void {
    if (this.places >= AT_ONCE + limits.waiting.most || this.held + bytes > ROOM)
      throw new QueueFullError(limits.waiting.sentence)
  }

  /** Takes a place for a bundle of so many bytes. @throws QueueFullError */
  enter(client: string, bytes: number): Place {
    this.check(bytes)
    this.places++
    this.held += bytes
    let state: 'entered' | 'waiting' | 'running' | 'left' = 'entered'
    let waiter: Waiter | undefined
    return {
      turn: (signal) =>
        new Promise((resolve, reject) => {
          signal.throwIfAborted()
          state = 'waiting'
          waiter = {
            client,
            begin: () => {
              state = 'running'
              this.served.set(client, ++this.at)
              resolve()
            },
          }
          this.waiters.push(waiter)
          signal.addEventListener(
            'abort',
            () => {
              if (state === 'waiting') reject(signal.reason as Error)
            },
            { once: true },
          )
          this.next()
        }),
      leave: () => {
        if (state === 'left') return
        if (state === 'running') this.running--
        if (waiter && this.waiters.includes(waiter)) this.waiters.splice(this.waiters.indexOf(waiter), 1)
        state = 'left'
        this.places--
        this.held -= bytes
        // who has nothing here any more need not be remembered for long
        if (this.places === 0) this.served.clear()
        this.next()
      },
    }
  }

  private next(): void {
    while (this.running < AT_ONCE && this.waiters.length > 0) {
      const longestAgo = this.waiters.reduce((best, w) =>
        (this.served.get(w.client) ?? 0) < (this.served.get(best.client) ?? 0) ? w : best,
      )
      this.waiters.splice(this.waiters.indexOf(longestAgo), 1)
      this.running++
      longestAgo.begin()
    }
  }
}

export const queue = new RenderQueue()
