import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import { Piscina } from 'piscina'

/** Renders at once, and those that may wait; past that, clients are told to come again. */
const AT_ONCE = 1
const WAITING = 4
const SECONDS_PER_RENDER = 120

export interface RenderJob {
  readonly bundle: Uint8Array
  readonly options: { readonly from?: number, readonly to?: number, readonly track?: string, readonly tail?: number | 'auto' }
  readonly depth: 16 | 24 | 32
}

/** A request that there is no room for now. */
export class QueueFullError extends Error {
  override name = 'QueueFullError'
  readonly retryAfter = 5
}

class RenderQueue {
  private pool: Piscina | undefined
  private jobs = 0

  get running(): number { return Math.min(AT_ONCE, this.jobs) }
  get waiting(): number { return this.jobs - this.running }

  private open(): Piscina {
    const file = [process.env.OLEAJE_RENDER_WORKER, resolve('dist/render-worker.mjs'), resolve('../dist/render-worker.mjs')].find((f) => f && existsSync(f))
    if (!file) throw new Error('The render worker is not built; run npm run build.')
    return new Piscina({ filename: file, minThreads: 0, maxThreads: AT_ONCE, idleTimeout: 30_000, resourceLimits: { maxOldGenerationSizeMb: 1024 } })
  }

  /** Renders in a worker thread; parts of the WAV file arrive at `port`. Ends when `signal` does. @throws QueueFullError */
  async run(job: RenderJob, port: MessagePort, signal: AbortSignal): Promise<void> {
    if (this.jobs >= AT_ONCE + WAITING) throw new QueueFullError('Too many renders are waiting; try again in a few seconds.')
    this.pool ??= this.open()
    const limit = AbortSignal.any([signal, AbortSignal.timeout(SECONDS_PER_RENDER * 1000)])
    this.jobs++
    try {
      await this.pool.run({ ...job, port }, { signal: limit, transferList: [port as never] })
    } finally {
      this.jobs--
    }
  }
}

export const queue = new RenderQueue()
