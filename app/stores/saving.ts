import type { History } from '@oleaje/core/project/history'
import type { Ref } from 'vue'
import { saveMoment } from '../storage/database'

/** A save begins at most so long after the first change that is not saved, whatever goes on meanwhile. */
const SAVE_WITHIN_MS = 400
/** After a save that failed, the next is tried so much later. */
const RETRY_MS = 4000

const NO_ROOM =
  'The browser storage is full. Oleaje keeps trying. Save the project to a file now, then remove old projects to free space.'
const NO_STORE =
  'The browser does not allow saving (perhaps in private mode). Oleaje keeps trying. Save the project to a file before you close this tab.'
const NOT_SAVED: readonly string[] = [NO_ROOM, NO_STORE]

export type SaveState = 'saved' | 'saving' | 'unsaved' | 'memory only' | 'read only'

/**
 * Saves the document soon after a change. Where the browser refuses, the project stays in memory, the header
 * says so, and it is tried again.
 */
export class Saving {
  private timer: ReturnType<typeof setTimeout> | undefined
  private underWay: Promise<void> | null = null

  constructor(
    private readonly state: {
      readonly saveState: Ref<SaveState>
      readonly trouble: Ref<string>
      readonly readOnly: Ref<boolean>
    },
    private readonly history: () => History | null,
  ) {}

  schedule(): void {
    const { saveState, readOnly } = this.state
    if (readOnly.value) return
    const failing = saveState.value === 'memory only'
    if (saveState.value === 'saved') saveState.value = 'unsaved'
    this.timer ??= setTimeout(() => void this.save(), failing ? RETRY_MS : SAVE_WITHIN_MS)
  }

  /** Saves now, gestures under way included. */
  async save(): Promise<void> {
    const { saveState, readOnly } = this.state
    clearTimeout(this.timer)
    this.timer = undefined
    // one after the other; what changed meanwhile is part of the next
    while (this.underWay) await this.underWay
    const now = this.history()
    if (!now || readOnly.value || saveState.value === 'saved') return
    const failing = saveState.value === 'memory only'
    if (!failing) saveState.value = 'saving'
    const { moment } = now
    this.underWay = saveMoment(moment)
      .then(
        () => this.saved(failing, now.project === moment.project && this.history() === now),
        (error: unknown) => this.refused(failing, error),
      )
      .finally(() => {
        this.underWay = null
      })
    await this.underWay
  }

  /** @param isLatest whether nothing has changed since */
  private saved(failing: boolean, isLatest: boolean): void {
    const { saveState, trouble } = this.state
    if (failing && NOT_SAVED.includes(trouble.value)) trouble.value = ''
    if (saveState.value === 'saving' || saveState.value === 'memory only')
      saveState.value = isLatest && !this.timer ? 'saved' : 'unsaved'
  }

  private refused(failing: boolean, error: unknown): void {
    const { saveState, trouble } = this.state
    saveState.value = 'memory only'
    // said once, not with every try
    if (!failing)
      trouble.value =
        error instanceof DOMException && error.name === 'QuotaExceededError' ? NO_ROOM : NO_STORE
    this.schedule()
  }
}
