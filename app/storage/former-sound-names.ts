import { isFormerName } from '@oleaje/core/formats/former-hash'
import { AudioHasher, audioHash } from '@oleaje/core/formats/hash'
import { renamed } from '@oleaje/core/formats/sound-names'
import { StoredPieces } from '@oleaje/core/formats/stored-sound'
import { database } from './database'
import { loadLong } from './long-sounds'

/**
 * Gives the sounds that this browser keeps under former names, which did not tell all sounds apart, the names
 * of today, in all that uses them: projects, their histories and the shelf. All or nothing: a page that is
 * left meanwhile finds everything as it was.
 * @returns how many sounds were renamed
 */
export async function renameFormerSounds(): Promise<number> {
  const db = await database()
  const former = (await db.getAllKeys('audio')).filter(isFormerName)
  if (former.length === 0) return 0
  const names = new Map<string, string>()
  for (const hash of former) {
    const now = await nameOf(hash)
    if (now) names.set(hash, now)
  }
  const tx = db.transaction(['projects', 'history', 'kept', 'audio'], 'readwrite')
  for (let at = await tx.objectStore('audio').openCursor(); at; at = await at.continue()) {
    const name = names.get(at.key)
    if (name === undefined) continue
    // a sound of that content that came since is the same
    if ((await tx.objectStore('audio').getKey(name)) === undefined)
      void tx.objectStore('audio').put({ ...at.value, hash: name })
    void at.delete()
  }
  for (const store of ['projects', 'history', 'kept'] as const) {
    const records = tx.objectStore(store)
    for (let at = await records.openCursor(); at; at = await at.continue())
      void at.update(renamed(at.value, names) as typeof at.value)
  }
  await tx.done
  return names.size
}

/** The name that a kept sound has by its content; undefined where it cannot be read. */
async function nameOf(hash: string): Promise<string | undefined> {
  const sound = await loadLong(hash)
  if (!sound) return undefined
  const { long, sampleRate } = sound
  if (!long) return audioHash(sound)
  const pieces = new StoredPieces(long, sampleRate)
  const now = await AudioHasher.create(sampleRate, long.channelCount)
  for (let n = 0; n < pieces.count; n++)
    now.add(pieces.piece(n, new Uint8Array(await long.data.slice(...pieces.bytesOf(n)).arrayBuffer())))
  return now.text
}
