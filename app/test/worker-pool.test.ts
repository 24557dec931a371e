import { expose } from 'comlink'
import { describe, expect, it, vi } from 'vitest'
import { HeavyWorker } from '../workers/heavy-worker'
import { Dropped, WorkerPool } from '../workers/worker-pool'

vi.mock('../storage/database', () => ({ database: () => Promise.reject(new Error('no storage')) }))
const { computed } = await import('../storage/computed')

/** A pool of workers that never answer. */
function silentPool(): { pool: WorkerPool; ended: () => number } {
  let ended = 0
  const worker = { postMessage: () => {}, addEventListener: () => {}, terminate: () => ended++ }
  const make = (): HeavyWorker => new HeavyWorker(() => worker as unknown as Worker)
  return { pool: new WorkerPool(2, make), ended: () => ended }
}
const never = (call: HeavyWorker['call']): Promise<unknown> => call.takeSound([], 48_000, 48_000)

describe('worker pool', () => {
  it('drops what waits and what is under way alike, ends the workers, and goes on afterwards', async () => {
    const { pool, ended } = silentPool()
    const three = [0, 1, 2].map(() => pool.run(never))
    pool.cancel()
    for (const work of three) await expect(work).rejects.toBeInstanceOf(Dropped)
    expect(ended()).toBe(2)
    await expect(pool.run(() => Promise.resolve(37))).resolves.toBe(37)
  })
  it('says that a worker died where nobody dropped its work', async () => {
    const dying = {
      postMessage: () => {},
      addEventListener: () => {},
      terminate: () => {},
      onerror: () => {},
    }
    const pool = new WorkerPool(1, () => new HeavyWorker(() => dying as unknown as Worker))
    const work = pool.run(never)
    dying.onerror()
    await expect(work).rejects.toThrow('the background worker stopped')
  })
})

describe('reports of a call', () => {
  it('are heard while it runs, and not after its result', async () => {
    const { port1, port2 } = new MessageChannel()
    let reported = (): void => {}
    const late = new Promise<void>((resolve) => (reported = resolve))
    expose(
      {
        readSound: async (
          _job: number,
          _file: Blob,
          _rate: number,
          onProgress: (done: number) => unknown,
        ) => {
          await onProgress(0.37)
          setTimeout(() => void Promise.resolve(onProgress(0.93)).then(reported))
          return null
        },
      },
      port2,
    )
    port2.start()
    port1.start()
    const worker = new HeavyWorker(() => port1 as unknown as Worker)
    const heard: number[] = []
    await worker.call.readSound(1, new Blob(), 48_000, (done) => heard.push(done))
    await late
    expect(heard).toEqual([0.37])
    port1.close()
  })
})

describe('a result that several callers want', () => {
  it('is computed by the second where the first drops it', async () => {
    const { pool } = silentPool()
    const under = vi.fn(() => pool.run(never))
    const first = computed('fog pad', under)
    const second = computed('fog pad', () => Promise.resolve(0.37))
    await vi.waitFor(() => expect(under).toHaveBeenCalled())
    pool.cancel()
    await expect(first).rejects.toBeInstanceOf(Dropped)
    await expect(second).resolves.toBe(0.37)
  })
  it('fails for both where it fails', async () => {
    const first = computed('tide', () => Promise.reject(new Error('not a sound')))
    const second = computed('tide', () => Promise.resolve(1))
    await expect(first).rejects.toThrow('not a sound')
    await expect(second).rejects.toThrow('not a sound')
  })
})
