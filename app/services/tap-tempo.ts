import type { Gesture } from '@oleaje/core/project/history'
import { setTempo } from '@oleaje/core/project/song-edits'
import type { useDocument } from '../stores/document'

/** After so long without a tap, the next one starts a new measurement. */
const REST_MS = 2000
/** Taps that count. */
const MOST = 9

/** Sets the tempo by taps: the mean of the last ones. All taps of one row are one step. */
export class TapTempo {
  private times: number[] = []
  private gesture: Gesture | null = null
  private rest: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly doc: ReturnType<typeof useDocument>) {}

  tap(now = performance.now()): void {
    const last = this.times[this.times.length - 1]
    if (last !== undefined && now - last > REST_MS) this.end()
    this.times = [...this.times, now].slice(-MOST)
    clearTimeout(this.rest)
    this.rest = setTimeout(() => this.end(), REST_MS)
    if (this.times.length < 3) return
    const [first = 0] = this.times
    const bpm = (60_000 * (this.times.length - 1)) / (now - first)
    if (!this.gesture?.isOpen) this.gesture = this.doc.gesture('Tap tempo')
    this.gesture.edit(setTempo(Math.round(bpm * 10) / 10))
  }

  private end(): void {
    clearTimeout(this.rest)
    this.gesture?.end()
    this.gesture = null
    this.times = []
  }
}
