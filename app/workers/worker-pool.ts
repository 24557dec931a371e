import { HeavyWorker } from './heavy-worker'

/** A piece of work that waits for a worker. */
interface Waiting {
  readonly run: (worker: HeavyWorker) => Promise<void>
  readonly drop: () => void
}

/** The work was not wanted any more. */
export class Dropped extends Error {
  override name = 'Dropped'
}

/** Most workers: each has the engine and copies of sounds in memory. */
const MOST = 8

/** Workers for many pieces of work at once, one for each core, the first wanted first. */
export class WorkerPool {
  private readonly idle: HeavyWorker[] = []
  /** Workers at work, each with what drops it. */
  private readonly busy = new Map<HeavyWorker, () => void>()
  private readonly waiting: Waiting[] = []
  /** Number of workers at most. */
  readonly size: number

  constructor(
    cores = navigator.hardwareConcurrency,
    private readonly make = () => new HeavyWorker(),
  ) {
    this.size = Math.min(MOST, Math.max(1, cores || 1))
  }

  /** Has a worker do something as soon as one is free. Rejects with {@link Dropped} where it is cancelled. */
  run<T>(work: (call: HeavyWorker['call']) => Promise<T>): Promise<T> {
    return new Promise((resolve, reject) => {
      this.waiting.push({
        run: (worker) => work(worker.call).then(resolve, reject),
        drop: () => reject(new Dropped()),
      })
      this.next()
    })
  }

  private next(): void {
    if (this.busy.size >= this.size) return
    const wanted = this.waiting.shift()
    if (!wanted) return
    const worker = this.idle.pop() ?? this.make()
    this.busy.set(worker, wanted.drop)
    void wanted.run(worker).finally(() => {
      if (this.busy.delete(worker)) this.idle.push(worker)
      this.next()
    })
  }

  /** Drops all work at once: workers that are at it are ended. */
  cancel(): void {
    for (const { drop } of this.waiting.splice(0)) drop()
    for (const [worker, drop] of this.busy) {
      drop()
      worker.end()
    }
    this.busy.clear()
  }
}
