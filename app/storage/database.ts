import { isFormerName } from '@oleaje/core/formats/former-hash'
import type { Moment } from '@oleaje/core/project/history'
import type { Preset } from '@oleaje/core/project/preset'
import { PROJECT_VERSION } from '@oleaje/core/project/schema'
import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { LongSound, Sound } from '../contract/messages'

/** Form of the history's steps: those of another form are not kept. */
const HISTORY_FORM = 2

/** A project as it is kept, and when it was saved and opened. */
export interface StoredProject {
  readonly id: string
  readonly name: string
  readonly saved: number
  readonly opened?: number
  readonly project: unknown
}

interface Stored extends DBSchema {
  projects: { key: string; value: StoredProject }
  history: {
    key: string
    value: { id: string; form?: number; version?: number } & Pick<Moment, 'undo' | 'redo'>
  }
  audio: { key: string; value: KeptSound; indexes: { bySaved: number; byPieces: string } }
  pieces: { key: [string, number]; value: Blob }
  kept: { key: string; value: KeptPreset }
  computed: { key: string; value: Computed; indexes: { byUsed: number } }
}

/** Something on the shelf: a preset, and when it was kept. */
export interface KeptPreset {
  readonly id: string
  readonly saved: number
  readonly preset: Preset
}

/** Something that was computed and can be computed again, and when it was last asked for. */
export interface Computed {
  readonly key: string
  readonly used: number
  readonly value: unknown
}

/** A sound as it is kept; of a long one the name of its pieces, and when it came. */
interface KeptSound extends Omit<Sound, 'long'> {
  readonly long?: Omit<LongSound, 'data'> & { readonly pieces: string }
  readonly saved?: number
}

/**
 * Version of the database. 5 has the stores of 4: it keeps tabs with an older app from saving sounds under
 * their former names. 6 has one for what can be computed again.
 */
const VERSION = 6

let opened: Promise<IDBPDatabase<Stored>> | null = null
let blocked = (): void => {}

/** Names who is told that an older tab keeps the database from being opened. */
export function whenBlocked(listener: () => void): void {
  blocked = listener
}

/** Stores of the database. */
export const database = (): Promise<IDBPDatabase<Stored>> => {
  opened ??= openDB<Stored>('oleaje', VERSION, {
    upgrade(db, version, _, tx) {
      if (version < 1) {
        db.createObjectStore('projects', { keyPath: 'id' })
        db.createObjectStore('history', { keyPath: 'id' })
        db.createObjectStore('audio', { keyPath: 'hash' })
      }
      if (version < 2) db.createObjectStore('kept', { keyPath: 'id' })
      if (version < 4) {
        db.createObjectStore('pieces')
        // so that a sweep need not read what is kept
        tx.objectStore('audio').createIndex('bySaved', 'saved')
        tx.objectStore('audio').createIndex('byPieces', 'long.pieces')
      }
      if (version < 6) db.createObjectStore('computed', { keyPath: 'key' }).createIndex('byUsed', 'used')
      // preferences once were here; see stores/preferences
      const names: DOMStringList = db.objectStoreNames
      if (names.contains('settings')) (db as unknown as IDBPDatabase).deleteObjectStore('settings')
    },
    blocked: () => blocked(),
    // a tab with a newer Oleaje does not wait for this one
    blocking: (_, __, event) => {
      opened = null
      ;(event.target as IDBDatabase).close()
    },
    // cleared site data and full disks end a connection: the next call opens another
    terminated: () => {
      opened = null
    },
  }).catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

/** Moments that could not be written; kept and read here while the tab is open. */
const unwritten = new Map<string, Moment>()

/**
 * Keeps a project with its history. Where the browser refuses, both stay in this tab, and are written with
 * the next that it takes.
 */
export async function saveMoment(moment: Moment): Promise<void> {
  unwritten.set(moment.project.id, moment)
  await writeMoment(moment)
  if (unwritten.get(moment.project.id) === moment) unwritten.delete(moment.project.id)
  for (const [id, other] of unwritten)
    if (id !== moment.project.id)
      await writeMoment(other).then(
        () => unwritten.delete(id),
        () => {},
      )
}

/**
 * When this tab opened the project that it works on: the one that is opened again is the one that was opened
 * last.
 */
let openHere = { id: '', at: 0 }
const openedAt = (id: string): number => (openHere.id === id ? openHere.at : 0)

/** Remembers that a project is open now, with its next save, and at once where it is kept already. */
export async function noteOpened(id: string): Promise<void> {
  openHere = { id, at: Date.now() }
  const tx = (await database()).transaction('projects', 'readwrite')
  const kept = await tx.store.get(id)
  if (kept) void tx.store.put({ ...kept, opened: openHere.at })
  await tx.done
}

/** The project that was opened last; undefined where none is kept. */
export async function lastOpened(): Promise<string | undefined> {
  const kept = await (await database()).getAll('projects')
  const at = (k: (typeof kept)[number]): number => k.opened ?? k.saved
  return kept.reduce<(typeof kept)[number] | undefined>(
    (last, k) => (last && at(last) >= at(k) ? last : k),
    undefined,
  )?.id
}

/** Writes project and history together, so that neither is ever of another moment than the other. */
async function writeMoment({ project, undo, redo }: Moment): Promise<void> {
  const tx = (await database()).transaction(['projects', 'history'], 'readwrite', { durability: 'relaxed' })
  try {
    // what goes wrong shows in `tx.done`
    tx.objectStore('projects')
      .put({ id: project.id, name: project.name, saved: Date.now(), opened: openedAt(project.id), project })
      .catch(() => {})
    tx.objectStore('history')
      .put({ id: project.id, form: HISTORY_FORM, version: project.version, undo, redo })
      .catch(() => {})
    // without this the page is asked once more when the puts are done, and a page that is left before then
    // loses them
    tx.commit()
  } catch (error) {
    // one without the other must not be kept
    tx.abort()
    await tx.done.catch(() => {})
    throw error
  }
  await tx.done
}

/**
 * A project as it was kept, with its history; undefined where there is none. A history of another version of
 * the file, whose steps would not fit the project that it is brought up to, is left out.
 */
export async function loadMoment(
  id: string,
): Promise<
  { project: unknown; undo: Moment['undo']; redo: Moment['redo']; isUnwritten?: boolean } | undefined
> {
  const inTab = unwritten.get(id)
  if (inTab) return { ...inTab, isUnwritten: true }
  const tx = (await database()).transaction(['projects', 'history'])
  const [kept, history] = await Promise.all([
    tx.objectStore('projects').get(id),
    tx.objectStore('history').get(id),
  ])
  if (!kept) return undefined
  const fits =
    history?.form === HISTORY_FORM &&
    history.version === PROJECT_VERSION &&
    (kept.project as { version?: unknown }).version === PROJECT_VERSION
  return { project: kept.project, undo: fits ? history.undo : [], redo: fits ? history.redo : [] }
}

export async function listProjects(): Promise<{ id: string; name: string; saved: number }[]> {
  const kept = await database()
    .then((db) => db.getAll('projects'))
    .catch(() => [])
  const inTab = [...unwritten.values()].map(({ project: { id, name } }) => ({ id, name, saved: Date.now() }))
  return [
    ...inTab,
    ...kept.filter((k) => !unwritten.has(k.id)).map(({ id, name, saved }) => ({ id, name, saved })),
  ].sort((a, b) => b.saved - a.saved)
}

/** Removes a project and its history; its sounds stay until {@link sweepSounds}. */
export async function deleteProject(id: string): Promise<void> {
  unwritten.delete(id)
  const tx = (await database()).transaction(['projects', 'history'], 'readwrite')
  void tx.objectStore('projects').delete(id)
  void tx.objectStore('history').delete(id)
  await tx.done
}

/** Names of sounds that only this tab knows to be in use: those of projects that could not be written. */
export function namesInTab(): string[] {
  const used = new Set<string>()
  for (const { project, undo, redo } of unwritten.values())
    for (const part of [project.audio, undo, redo]) noteSoundNames(part, used)
  return [...used]
}

/**
 * Adds every text and key within a document to a set: among them are the hashes of all sounds that it names.
 */
export function noteSoundNames(from: unknown, used: Set<string>): void {
  if (typeof from === 'string') used.add(from)
  if (typeof from !== 'object' || from === null) return
  for (const [key, value] of Object.entries(from)) {
    used.add(key)
    noteSoundNames(value, used)
  }
}

export const saveSound = async (sound: Sound): Promise<void> => {
  const db = await database()
  // a long one was kept as it came
  if (!sound.long && !(await db.getKey('audio', sound.hash)))
    await db.put('audio', {
      hash: sound.hash,
      sampleRate: sound.sampleRate,
      channels: sound.channels,
      saved: Date.now(),
    })
}

/** Whether sounds are stored under former names. */
export const keepsFormerNames = async (): Promise<boolean> =>
  (await (await database()).getAllKeys('audio')).some(isFormerName)

export const listKept = async (): Promise<KeptPreset[]> =>
  (await (await database()).getAll('kept')).sort((a, b) => b.saved - a.saved)
export const saveKept = async (kept: KeptPreset): Promise<void> => {
  await (await database()).put('kept', kept)
}
export const deleteKept = async (id: string): Promise<void> => {
  await (await database()).delete('kept', id)
}
