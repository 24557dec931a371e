import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import { limits } from '@oleaje/core/limits'
import { Piscina } from 'piscina'

export interface RenderJob {
  readonly bundle: Uint8Array
  readonly options: {
    readonly from?: number
    readonly to?: number
    readonly track?: string
    readonly tail?: number | 'auto'
  }
  readonly depth: 16 | 24 | 32
}

/**
 * What the worker says: what the file is first, then the parts, each to be answered when it has been taken,
 * then that it is done; or a sentence.
 */
export type RenderMessage =
  | { readonly type: 'begin'; readonly mime: string; readonly bytes?: number }
  | { readonly type: 'part'; readonly bytes: Uint8Array }
  | { readonly type: 'done' }
  | { readonly type: 'refused'; readonly message: string }

/** A render that was refused or stopped, with the status that says so. */
export class RenderFailure extends Error {
  override name = 'RenderFailure'
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message)
  }
}

let pool: Piscina | undefined

function open(): Piscina {
  const file = [
    process.env.OLEAJE_RENDER_WORKER,
    resolve('dist/render-worker.mjs'),
    resolve('../dist/render-worker.mjs'),
  ].find((f) => f && existsSync(f))
  if (!file) throw new Error('The render worker is missing. Run npm run build.')
  // a thread that has nothing to do for some seconds ends, and gives its memory back
  return new Piscina({
    filename: file,
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 3000,
    resourceLimits: { maxOldGenerationSizeMb: 512 },
  })
}

/**
 * Renders in a worker thread. `begin` is told once, then `part` for each part of the file; the next is made
 * when that has resolved. Its time counts from the start of its work, and stands still while a part is being
 * taken.
 * @throws RenderFailure, or the signal's reason
 */
export function runJob(
  job: RenderJob,
  signal: AbortSignal,
  told: { begin: (mime: string, bytes?: number) => void; part: (bytes: Uint8Array) => Promise<void> },
): Promise<void> {
  pool ??= open()
  const { port1, port2 } = new MessageChannel()
  const stop = new AbortController()
  const leave = (): void => {
    stop.abort(signal.reason)
  }
  signal.addEventListener('abort', leave, { once: true })
  let left = limits.requestWork.most * 1000
  let since = performance.now()
  let timer: ReturnType<typeof setTimeout> | undefined
  let failure: Error | undefined
  const fail = (error: Error): void => {
    failure ??= error
    stop.abort(error)
  }
  const go = (): void => {
    since = performance.now()
    timer = setTimeout(() => fail(new RenderFailure(503, limits.requestWork.sentence)), left)
  }
  const rest = (): void => {
    clearTimeout(timer)
    left -= performance.now() - since
  }
  const end = (): void => {
    clearTimeout(timer)
    signal.removeEventListener('abort', leave)
    port1.close()
  }
  return new Promise<void>((done, failed) => {
    port1.onmessage = ({ data }: MessageEvent<RenderMessage>) => {
      if (data.type === 'begin') told.begin(data.mime, data.bytes)
      else if (data.type === 'refused') failed(new RenderFailure(422, data.message))
      else if (data.type === 'done') done()
      else {
        rest()
        told.part(data.bytes).then(() => {
          go()
          port1.postMessage('taken')
        }, fail)
      }
    }
    go()
    pool
      ?.run(
        { ...job, port: port2 },
        { signal: stop.signal, transferList: [port2 as never, job.bundle.buffer as ArrayBuffer] },
      )
      .catch((error: unknown) => {
        failed(
          failure ??
            (signal.aborted
              ? (signal.reason as Error)
              : error instanceof RenderFailure
                ? error
                : new RenderFailure(503, 'The render was stopped: it could not be carried out here.')),
        )
      })
  }).finally(end)
}
