import { Dropped } from '../workers/worker-pool'
import { database } from './database'

/** Results that are kept at most; the ones asked for longest ago go first. */
const MOST = 1500

/** Of several callers that want the same, one computes it. */
const under = new Map<string, Promise<unknown>>()

/**
 * A result by a key that names all it follows from: as it was kept, or computed and kept. Where the browser
 * keeps nothing, it is computed each time. Where the caller that computes it drops it, another that waits for
 * it computes it.
 */
export async function computed<T>(key: string, compute: () => Promise<T>): Promise<T> {
  const running = under.get(key)
  if (running)
    return (running as Promise<T>).catch((error: unknown) => {
      if (error instanceof Dropped) return computed(key, compute)
      throw error
    })
  const work = keptOr(key, compute).finally(() => under.delete(key))
  under.set(key, work)
  return work
}

async function keptOr<T>(key: string, compute: () => Promise<T>): Promise<T> {
  const db = await database().catch(() => null)
  const kept = await db?.get('computed', key).catch(() => undefined)
  const value = kept ? (kept.value as T) : await compute()
  void db?.put('computed', { key, used: Date.now(), value }).catch(() => {})
  if (!kept) void sweep()
  return value
}

async function sweep(): Promise<void> {
  try {
    const tx = (await database()).transaction('computed', 'readwrite')
    const over = (await tx.store.count()) - MOST
    let at = over > 0 ? await tx.store.index('byUsed').openCursor() : null
    for (let i = 0; at && i < over; i++) {
      await at.delete()
      at = await at.continue()
    }
    await tx.done
  } catch {
    // what is left over is swept with the next result
  }
}
