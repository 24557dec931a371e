import type { Gesture } from '@oleaje/core/project/history'
import { goTowards, takeSnapshot, valuesOf } from '@oleaje/core/project/snapshots'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'

/** Time between two steps of a glide in ms. */
const STEP_MS = 16

/** Snapshots of the selected track: taken and recalled, with a glide that is one undo step. */
export class Snapshots {
  private glide: { readonly gesture: Gesture; readonly stop: () => void } | null = null

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'screen' | 'selection'>,
  ) {}

  take(slot: number): void {
    const { track } = this.stores.selection
    if (track) this.doc.edit(`Store snapshot ${slot}`, takeSnapshot(track.id, slot))
  }

  /** Goes to a snapshot within the glide time. One that is under way ends where it has come to. */
  recall(slot: number): void {
    const { doc } = this
    const { screen, selection } = this.stores
    const { track } = selection
    const to = track?.snapshots.find((s) => s.id === String(slot))?.values
    this.end()
    if (!doc.project || !track || !to) return
    const from = valuesOf(doc.project, track)
    const gesture = doc.gesture(`Recall snapshot ${slot}`)
    const length = screen.snapshotGlide * 1000
    const began = performance.now()
    const step = (): void => {
      const way = length > 0 ? Math.min(1, (performance.now() - began) / length) : 1
      gesture.edit(goTowards(from, to, way))
      // what undoes something meanwhile ends it as well
      if (way >= 1 || !gesture.isOpen) this.end()
    }
    const timer = setInterval(step, STEP_MS)
    this.glide = { gesture, stop: () => clearInterval(timer) }
    step()
  }

  private end(): void {
    this.glide?.stop()
    this.glide?.gesture.end()
    this.glide = null
  }
}
