import type { StoredSound } from '@oleaje/core/formats/stored-sound'
import type { Sound } from '../contract/messages'
import { database } from './database'

/** Locks of sounds that are being stored, so that their pieces are not cleaned up as leftovers. */
const LOCK = 'oleaje-bringing:'

/**
 * Puts a long sound away piece by piece while it comes. Its pieces have a name of their own, since what it
 * will be called shows at its end.
 */
export class LongSoundWriter {
  private readonly id = crypto.randomUUID()
  private count = 0
  private bytes = 0
  private letGo = (): void => {}
  private held: Promise<void> | null = null

  /** Puts the next piece away. @throws a sentence where the browser has no room, or keeps nothing */
  async write(bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    this.held ??= this.claim()
    await this.held
    this.bytes += bytes.length
    try {
      await (await database()).put('pieces', new Blob([bytes]), [this.id, this.count++])
    } catch (error) {
      if ((error as Error).name !== 'QuotaExceededError')
        throw new Error(
          'it is too long for memory, and this browser does not allow storage (perhaps in private mode).',
        )
      throw new Error(
        `this browser has no room left for it after ${Math.round(this.bytes / 1e6).toLocaleString('en')} MB. Remove projects that you do not need, or trim the file first.`,
      )
    }
  }

  /** Ends it: the sound is kept under its name, or was there already. */
  async end(hash: string, stored: StoredSound): Promise<Sound> {
    const db = await database()
    const known = await db.getKey('audio', hash)
    if (known === undefined)
      await db.put('audio', {
        hash,
        sampleRate: stored.sampleRate,
        channels: [],
        long: { ...stored, pieces: this.id },
        saved: Date.now(),
      })
    else await this.dropPieces()
    this.letGo()
    const sound = await loadLong(hash)
    if (!sound) throw new Error('it could not be found again where it was kept.')
    return sound
  }

  /** Cancels and deletes everything written so far. */
  async drop(): Promise<void> {
    await this.dropPieces().catch(() => {})
    this.letGo()
  }

  private async dropPieces(): Promise<void> {
    if (this.count > 0) await (await database()).delete('pieces', piecesOf(this.id))
  }

  private claim(): Promise<void> {
    if (!('locks' in navigator)) return Promise.resolve()
    return new Promise((resolve) => {
      void navigator.locks.request(
        `${LOCK}${this.id}`,
        () =>
          new Promise<void>((done) => {
            this.letGo = done
            resolve()
          }),
      )
    })
  }
}

/** Names of pieces that are being written now, here or in another tab. */
export async function namesBeingWritten(): Promise<Set<string>> {
  const { held } = 'locks' in navigator ? await navigator.locks.query() : { held: [] }
  return new Set((held ?? []).flatMap(({ name }) => (name?.startsWith(LOCK) ? name.slice(LOCK.length) : [])))
}

/** All pieces of a name. */
export const piecesOf = (name: string): IDBKeyRange => IDBKeyRange.bound([name], [name, []])

/** A sound as it is kept, with a handle to its pieces where it is long; they stay where they are. */
export async function loadLong(hash: string): Promise<Sound | undefined> {
  const db = await database()
  const kept = await db.get('audio', hash)
  if (!kept) return undefined
  const { sampleRate, channels, long } = kept
  if (!long) return { hash, sampleRate, channels }
  const { pieces, ...stored } = long
  return {
    hash,
    sampleRate,
    channels,
    long: { ...stored, data: new Blob(await db.getAll('pieces', piecesOf(pieces))) },
  }
}
