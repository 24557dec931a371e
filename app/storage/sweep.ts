import { database, noteSoundNames } from './database'
import { namesBeingWritten, piecesOf } from './long-sounds'

/**
 * A sound that came so shortly ago stays, though nothing kept uses it yet: in another tab it may be on its
 * way into a project.
 */
export const FRESH_MS = 10_000

/**
 * Removes the sounds that no project, no history and nothing on the shelf uses, and pieces of sounds that
 * never came to their end. What is kept of the sounds themselves is not read for it.
 * @param inUse names that are in use beside those
 * @returns whether something was left that is only too fresh
 */
export async function sweepSounds(inUse: Iterable<string> = []): Promise<boolean> {
  const db = await database()
  // what begins to be written after this is left alone
  const leftOver = new Set((await db.getAllKeys('pieces')).map(([name]) => name))
  for (const name of await namesBeingWritten()) leftOver.delete(name)
  const tx = db.transaction(['projects', 'history', 'kept', 'audio', 'pieces'], 'readwrite')
  const audio = tx.objectStore('audio')
  const used = new Set(inUse)
  for (let at = await tx.objectStore('projects').openCursor(); at; at = await at.continue())
    noteSoundNames(at.value.project, used)
  for (let at = await tx.objectStore('kept').openCursor(); at; at = await at.continue())
    noteSoundNames(at.value.preset.audio, used)
  // what a step back would bring again is in use as well
  for (let at = await tx.objectStore('history').openCursor(); at; at = await at.continue())
    noteSoundNames([at.value.undo, at.value.redo], used)
  const fresh = new Set(
    await audio.index('bySaved').getAllKeys(IDBKeyRange.lowerBound(Date.now() - FRESH_MS)),
  )
  const unused = (await audio.getAllKeys()).filter((hash) => !used.has(hash))
  for (const hash of unused) if (!fresh.has(hash)) void audio.delete(hash)
  for (let at = await audio.index('byPieces').openKeyCursor(); at; at = await at.continue())
    leftOver.delete(at.key)
  for (const name of leftOver) void tx.objectStore('pieces').delete(piecesOf(name))
  await tx.done
  return unused.some((hash) => fresh.has(hash))
}
