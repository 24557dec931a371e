import { UploadError } from './upload-error'

/** Uploads at once, and bytes that they may hold together. */
const AT_ONCE = 48
const ROOM = 192 * 1024 * 1024
/** An upload is not given up for another before so many ms. */
const PATIENCE_MS = 2000

/** An upload under way. */
export interface Upload {
  /** Counts bytes that have come. */
  readonly took: (bytes: number) => void
  readonly leave: () => void
}

interface Coming {
  readonly began: number
  bytes: number
  readonly giveUp: (error: UploadError) => void
}

/**
 * Requests that are still coming. None of them has a place in the queue of renders: only whole requests wait
 * there, so that those who send slowly keep nobody from it. Where there are too many, or they hold too much,
 * the slowest gives way.
 */
export class Uploads {
  private readonly coming = new Set<Coming>()
  private held = 0

  constructor(private readonly now: () => number = () => performance.now()) {}

  /** @param giveUp called where this one is given up for others; it leaves then as well */
  enter(giveUp: (error: UploadError) => void): Upload {
    const own: Coming = { began: this.now(), bytes: 0, giveUp }
    this.coming.add(own)
    this.makeRoom()
    return {
      took: (bytes) => {
        if (!this.coming.has(own)) return
        own.bytes += bytes
        this.held += bytes
        this.makeRoom()
      },
      leave: () => {
        if (this.coming.delete(own)) this.held -= own.bytes
      },
    }
  }

  private makeRoom(): void {
    while (this.coming.size > AT_ONCE || this.held > ROOM) {
      const now = this.now()
      const speed = (c: Coming): number => c.bytes / Math.max(1, now - c.began)
      const old = [...this.coming].filter((c) => now - c.began > PATIENCE_MS)
      const all = old.length > 0 ? old : [...this.coming]
      const slowest = all.reduce((a, b) => (speed(b) < speed(a) ? b : a))
      this.coming.delete(slowest)
      this.held -= slowest.bytes
      slowest.giveUp(new UploadError(408, 'The bundle came too slowly while others were waiting. Try again.'))
    }
  }
}

export const uploads = new Uploads()
