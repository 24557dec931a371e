import {
  ArchiveError,
  type ArchiveEntry,
  packArchive,
  readArchive,
  wholeOf,
} from '@oleaje/core/formats/archive'
import { AudioHasher, audioHash } from '@oleaje/core/formats/hash'
import { type StoredSound, StoredPieces } from '@oleaje/core/formats/stored-sound'
import type { ByteSource } from '@oleaje/core/formats/byte-asks'
import { readPreset } from '@oleaje/core/project/preset'
import { type KeptPreset, type StoredProject, database } from './database'
import { LongSoundWriter, loadLong } from './long-sounds'

/** Metadata of a sound in an archive. */
interface SoundNote {
  readonly hash: string
  readonly sampleRate: number
  readonly channels: number
  readonly long?: Omit<StoredSound, 'peaks'> & { readonly peaks: number[] }
}

/** Result of importing an archive. */
export interface BroughtBack {
  readonly projects: number
  readonly presets: number
  readonly sounds: number
  /** Projects that were kept here in another state: they came as copies. */
  readonly copies: number
}

const json = (x: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(x))
const parsed = async <T>(read: Parameters<typeof wholeOf>[0]): Promise<T> =>
  JSON.parse(new TextDecoder().decode(await wholeOf(read))) as T

/** Writes all projects with their histories, the shelf and all sounds of this browser as one file. */
export async function exportEverything(write: (part: Uint8Array) => void): Promise<void> {
  await packArchive(entries(), write)
}

async function* entries(): AsyncGenerator<ArchiveEntry> {
  const db = await database()
  for (const hash of await db.getAllKeys('audio')) {
    const sound = await loadLong(hash)
    if (!sound) continue
    const { long, sampleRate, channels } = sound
    const { data, ...stored } = long ?? {}
    const note: SoundNote = {
      hash,
      sampleRate,
      channels: channels.length,
      ...(long && { long: { ...(stored as StoredSound), peaks: [...long.peaks] } }),
    }
    yield { name: `sounds/${hash}.json`, bytes: json(note) }
    if (data) yield { name: `sounds/${hash}.frames`, bytes: sourceOf(data) }
    else {
      const all = new Uint8Array(channels.reduce((sum, c) => sum + c.byteLength, 0))
      channels.reduce((at, c) => {
        all.set(new Uint8Array(c.buffer, c.byteOffset, c.byteLength), at)
        return at + c.byteLength
      }, 0)
      yield { name: `sounds/${hash}.samples`, bytes: all }
    }
  }
  for (const project of await db.getAll('projects')) {
    yield { name: `projects/${project.id}.json`, bytes: json(project) }
    const history = await db.get('history', project.id)
    if (history) yield { name: `histories/${project.id}.json`, bytes: json(history) }
  }
  for (const kept of await db.getAll('kept')) yield { name: `shelf/${kept.id}.json`, bytes: json(kept) }
}

/**
 * Brings back what an archive holds. What is here already stays; a project that is here in another state
 * comes as a copy beside it.
 * @throws ArchiveError, or a sentence where there is no room
 */
export async function importEverything(file: ByteSource, newId: () => string): Promise<BroughtBack> {
  const db = await database()
  const found = { projects: 0, presets: 0, sounds: 0, copies: 0 }
  const renamed = new Map<string, string>()
  let note: SoundNote | null = null
  await readArchive(file, async (name, read) => {
    const [folder, rest = ''] = name.split('/')
    if (folder === 'sounds') {
      if (rest.endsWith('.json')) note = await parsed<SoundNote>(read)
      else if (note) {
        await takeSound(note, read)
        found.sounds++
        note = null
      }
    } else if (folder === 'projects') {
      const project = await parsed<StoredProject>(read)
      const here = await db.get('projects', project.id)
      const same = here && JSON.stringify(here.project) === JSON.stringify(project.project)
      if (here && !same) {
        const id = newId()
        renamed.set(project.id, id)
        found.copies++
        await db.put('projects', { ...project, id, project: { ...(project.project as object), id } })
      } else if (!here) await db.put('projects', project)
      found.projects++
    } else if (folder === 'histories') {
      const history = await parsed<{ id: string; undo: []; redo: [] }>(read)
      const id = renamed.get(history.id) ?? history.id
      if (!(await db.getKey('history', id))) await db.put('history', { ...history, id })
    } else if (folder === 'shelf') {
      const kept = await parsed<KeptPreset>(read)
      // a preset that this program cannot read would break the shelf
      readPreset(JSON.stringify(kept.preset))
      if (!(await db.getKey('kept', kept.id))) await db.put('kept', kept)
      found.presets++
    }
  })
  return found
}

/** Keeps a sound of an archive, if its content is what its name says. */
async function takeSound(note: SoundNote, read: Parameters<typeof wholeOf>[0]): Promise<void> {
  const db = await database()
  const wrong = new ArchiveError(
    `A sound in this archive does not match its name: ${note.hash.slice(0, 12)}.`,
  )
  if (note.long) {
    const { long, sampleRate, hash } = note
    const writer = new LongSoundWriter()
    const stored: StoredSound = { ...long, peaks: Float32Array.from(long.peaks) }
    const pieces = new StoredPieces(stored, long.sampleRate)
    const hasher = await AudioHasher.create(long.sampleRate, long.channelCount)
    try {
      // in the pieces in which it was kept, whatever parts the file comes in
      let rest = new Uint8Array(0)
      let n = 0
      await read(async (part) => {
        const all = new Uint8Array(rest.length + part.length)
        all.set(rest)
        all.set(part, rest.length)
        let used = 0
        for (; n < pieces.count; n++) {
          const [from, to] = pieces.bytesOf(n)
          if (all.length - used < to - from) break
          const piece = all.slice(used, used + to - from)
          hasher.add(pieces.piece(n, piece))
          await writer.write(piece)
          used += piece.length
        }
        rest = all.slice(used)
      })
      if (hasher.text !== hash || long.sampleRate !== sampleRate) throw wrong
      await writer.end(hash, stored)
    } catch (error) {
      await writer.drop()
      throw error
    }
    return
  }
  const all = await wholeOf(read)
  const frames = all.length / 4 / Math.max(1, note.channels)
  const channels = Array.from(
    { length: note.channels },
    (_, c) => new Float32Array(all.buffer.slice(4 * c * frames, 4 * (c + 1) * frames)),
  )
  if ((await audioHash({ sampleRate: note.sampleRate, channels })) !== note.hash) throw wrong
  if (!(await db.getKey('audio', note.hash)))
    await db.put('audio', { hash: note.hash, sampleRate: note.sampleRate, channels, saved: Date.now() })
}

const sourceOf = (data: Blob): ByteSource => ({
  size: data.size,
  read: async (from, to) => new Uint8Array(await data.slice(from, to).arrayBuffer()),
})
