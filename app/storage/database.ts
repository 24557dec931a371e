import type { Project } from '@oleaje/core/project/schema'
import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { Patch } from '@oleaje/core/project/patch'
import type { Sound } from '../audio/messages'

/** One undo step: what to do, what undoes it, and what a person calls it. */
export interface HistoryStep {
  readonly label: string
  readonly patches: readonly Patch[]
  readonly inverse: readonly Patch[]
}

export interface History {
  readonly undo: readonly HistoryStep[]
  readonly redo: readonly HistoryStep[]
}

interface Stored extends DBSchema {
  projects: { key: string, value: { id: string, name: string, saved: number, project: unknown } }
  history: { key: string, value: { id: string } & History }
  audio: { key: string, value: Sound }
  settings: { key: string, value: unknown }
}

let opened: Promise<IDBPDatabase<Stored>> | null = null

const database = (): Promise<IDBPDatabase<Stored>> => {
  opened ??= openDB<Stored>('oleaje', 1, {
    upgrade(db) {
      db.createObjectStore('projects', { keyPath: 'id' })
      db.createObjectStore('history', { keyPath: 'id' })
      db.createObjectStore('audio', { keyPath: 'hash' })
      db.createObjectStore('settings')
    },
  }).catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

/** Writes project and history together, so that a crash between them is not possible. */
export async function saveProject(project: Project, history: History): Promise<void> {
  const tx = (await database()).transaction(['projects', 'history'], 'readwrite', { durability: 'relaxed' })
  void tx.objectStore('projects').put({ id: project.id, name: project.name, saved: Date.now(), project })
  void tx.objectStore('history').put({ id: project.id, ...history })
  await tx.done
}

export const loadProject = async (id: string): Promise<unknown> => (await (await database()).get('projects', id))?.project

export const loadHistory = async (id: string): Promise<History> => {
  const found = await (await database()).get('history', id)
  return found ? { undo: found.undo, redo: found.redo } : { undo: [], redo: [] }
}

export const listProjects = async (): Promise<{ id: string, name: string, saved: number }[]> =>
  (await (await database()).getAll('projects')).map(({ id, name, saved }) => ({ id, name, saved })).sort((a, b) => b.saved - a.saved)

export async function deleteProject(id: string): Promise<void> {
  const db = await database()
  await db.delete('projects', id)
  await db.delete('history', id)
}

export const saveSound = async (sound: Sound): Promise<void> => {
  const db = await database()
  if (!(await db.getKey('audio', sound.hash))) await db.put('audio', sound)
}

export const loadSound = async (hash: string): Promise<Sound | undefined> => (await database()).get('audio', hash)

export const saveSetting = async (key: string, value: unknown): Promise<void> => { await (await database()).put('settings', value, key) }
export const loadSetting = async <T>(key: string): Promise<T | undefined> => (await database()).get('settings', key) as Promise<T | undefined>
