import { fileOpen, fileSave } from 'browser-fs-access'
import { ref } from 'vue'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'

/**
 * What of this browser's storage is used and free, in bytes, and whether the browser may clear it when it
 * needs room.
 */
export interface Room {
  readonly used: number
  readonly free: number
  readonly isKept: boolean | null
}

/** The storage of this browser: asked to be kept, measured, and carried to a file and back as a whole. */
export class Keeping {
  readonly room = ref<Room | null>(null)
  private asked = false

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly heavy: HeavyWorker,
  ) {}

  /** Asks once that the browser keeps what is stored, with the first save. */
  async ask(): Promise<void> {
    if (this.asked) return
    this.asked = true
    await navigator.storage?.persist?.().catch(() => false)
  }

  /** Looks at how much is used. */
  async measure(): Promise<void> {
    const { storage } = navigator as { storage?: Partial<StorageManager> }
    const estimate = await storage?.estimate?.().catch(() => undefined)
    const isKept = (await storage?.persisted?.().catch(() => null)) ?? null
    const used = estimate?.usage ?? NaN
    this.room.value = estimate ? { used, free: (estimate.quota ?? NaN) - used, isKept } : null
  }

  /** Saves all projects, the shelf and all sounds to one file. */
  async exportAll(): Promise<void> {
    await this.doc.save()
    const file = await this.heavy.call.exportEverything()
    await fileSave(file, {
      fileName: `oleaje-${new Date().toISOString().slice(0, 10)}.zip`,
      extensions: ['.zip'],
    }).catch(() => null)
  }

  /** Asks for such a file and brings it back. */
  async importAll(): Promise<string> {
    const file = await fileOpen({ extensions: ['.zip'], description: 'Archive of everything' }).catch(
      () => null,
    )
    return file ? this.take(file) : ''
  }

  /** Brings back what such a file holds, and gives a sentence about it. */
  async take(file: Blob): Promise<string> {
    const { projects, presets, sounds, copies } = await this.heavy.call.importEverything(file)
    const many = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
    const beside = copies
      ? ` ${many(copies, 'project')} differed from the stored version and was imported as a copy.`
      : ''
    return `Imported ${many(projects, 'project')}, ${many(presets, 'preset')} and ${many(sounds, 'sound')}.${beside}`
  }
}
