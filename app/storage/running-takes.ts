import { type DBSchema, type IDBPDatabase, openDB } from 'idb'

/**
 * A recording under way: of which track of which project, from which beat, and how much its sides come late,
 * in samples.
 */
export interface TakeHead {
  readonly id: string
  readonly project: string
  readonly track: string
  readonly beat: number
  readonly latency: number
  /** The way from the output back to the input; what comes in is so much late. */
  readonly round: number
}

/** A part of a recording: its frames from one of the recording on, dry left and right, wet left and right. */
export interface TakePart {
  readonly from: number
  readonly frames: number
  readonly sides: readonly Float32Array[]
}

interface Running extends DBSchema {
  heads: { key: string; value: TakeHead }
  parts: { key: [string, number]; value: TakePart }
}

/** Says which recordings are under way now, here or in another tab. */
const LOCK = 'oleaje-take:'

let opened: Promise<IDBPDatabase<Running>> | null = null
const database = (): Promise<IDBPDatabase<Running>> => {
  opened ??= openDB<Running>('oleaje-takes', 1, {
    upgrade(db) {
      db.createObjectStore('heads', { keyPath: 'id' })
      db.createObjectStore('parts')
    },
    terminated: () => {
      opened = null
    },
  }).catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

/**
 * Writes a recording as it comes, so that a page that is killed loses its last second at most. What cannot be
 * written is only held.
 */
export class RunningTake {
  readonly id = crypto.randomUUID()
  private count = 0
  private writing: Promise<unknown> = Promise.resolve()
  private letGo = (): void => {}

  constructor() {
    if ('locks' in navigator)
      void navigator.locks.request(
        `${LOCK}${this.id}`,
        () => new Promise<void>((done) => (this.letGo = done)),
      )
  }

  /** @param head what is known of it by now; written with the first part */
  add(part: TakePart, head: Omit<TakeHead, 'id'>): void {
    const n = this.count++
    this.writing = this.writing
      .then(async () => {
        const db = await database()
        if (n === 0) await db.put('heads', { ...head, id: this.id })
        await db.put('parts', part, [this.id, n])
      })
      .catch(() => {})
  }

  /** Deletes the recording after it became a take or was discarded. */
  async drop(): Promise<void> {
    await this.writing
    await dropTake(this.id).catch(() => {})
    this.letGo()
  }

  /** It stays here, to be found when its project is opened. */
  async leave(): Promise<void> {
    await this.writing
    this.letGo()
  }
}

/** The recordings of a project that were cut off, with their parts in order. */
export async function cutOffTakes(
  project: string,
): Promise<{ readonly head: TakeHead; readonly parts: readonly TakePart[] }[]> {
  const { held } = 'locks' in navigator ? await navigator.locks.query() : { held: [] }
  const running = new Set((held ?? []).map(({ name }) => name))
  const db = await database()
  const found: { head: TakeHead; parts: TakePart[] }[] = []
  for (const head of await db.getAll('heads'))
    if (head.project === project && !running.has(`${LOCK}${head.id}`))
      found.push({ head, parts: await db.getAll('parts', partsOf(head.id)) })
  return found
}

export async function dropTake(id: string): Promise<void> {
  const tx = (await database()).transaction(['heads', 'parts'], 'readwrite')
  void tx.objectStore('heads').delete(id)
  void tx.objectStore('parts').delete(partsOf(id))
  await tx.done
}

const partsOf = (id: string): IDBKeyRange => IDBKeyRange.bound([id], [id, []])
