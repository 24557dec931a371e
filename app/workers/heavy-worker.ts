import { type Remote, proxy, wrap } from 'comlink'
import type { Heavy } from './heavy'

const DIED = 'the background worker stopped. Your project is safe. Try again.'

type Calls = { [K in keyof Heavy]: (...args: Parameters<Heavy[K]>) => Promise<Awaited<ReturnType<Heavy[K]>>> }

/**
 * The worker for all that takes long. Made when it is first needed; where it dies, everything that waits for
 * it fails with a sentence, and the next call makes a new one.
 */
export class HeavyWorker {
  private current: {
    readonly remote: Remote<Heavy>
    readonly died: Promise<never>
    readonly end: () => void
  } | null = null

  constructor(
    private readonly make: () => Worker = () =>
      new Worker(new URL('./heavy.ts', import.meta.url), { type: 'module' }),
  ) {}

  /**
   * Its functions, to be called like those of `workers/heavy.ts`. A function among the arguments is called
   * with what the worker reports until the call has ended: reports and results come by ways of their own, so
   * a report can arrive after the result, which says all.
   */
  readonly call: Calls = new Proxy({} as Calls, {
    get:
      (_, name) =>
      (...args: never[]) => {
        const { remote, died } = (this.current ??= this.begin())
        const method = remote[name as keyof Heavy] as unknown as (...a: unknown[]) => Promise<unknown>
        let isOver = false
        const sent = args.map((a: unknown) =>
          typeof a === 'function'
            ? proxy((...said: unknown[]) => {
                if (!isOver) a(...said)
              })
            : a,
        )
        return Promise.race([method(...sent), died]).finally(() => {
          isOver = true
        })
      },
  })

  private begin(): NonNullable<typeof this.current> {
    const worker = this.make()
    let fail: (error: Error) => void = () => {}
    const died = new Promise<never>((_, reject) => {
      fail = reject
    })
    // there may be no pending call when it dies
    died.catch(() => {})
    const end = (): void => {
      worker.terminate()
      this.current = null
      fail(new Error(DIED))
    }
    worker.onerror = end
    worker.onmessageerror = end
    return { remote: wrap<Heavy>(worker), died, end }
  }

  /** Ends it at once: what waits for it fails. */
  end(): void {
    this.current?.end()
  }
}
