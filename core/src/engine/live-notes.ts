import { FRACTION } from '../dsp/fraction'
import { BLOCK } from '../contract/block'
import type { NoteStream } from './note-stream'

/** Live messages that can wait: half a second of 16,000 a second. */
const WAITING = 8192
/** Live notes that can be held at once. */
const LIVE = 128

/** Passes on notes that are played live, each when it is due. */
export class LiveNotes {
  /** Bend (½ for none) and pressure of the player, 0…1. */
  bend = FRACTION
  pressure = FRACTION
  /** Pitch, velocity and the frame at which each is due: a ring. */
  private readonly waiting = new Float64Array(3 * WAITING)
  private from = 0
  private count = 0
  /** Those that are held, the oldest first. */
  private readonly ids = new Float64Array(LIVE)
  private readonly pitches = new Float64Array(LIVE)
  private held = 0
  /** Frames worked out so far. */
  private now = 0

  constructor(private readonly stream: NoteStream) {
    this.bend = 0.5
  }

  reset(): void {
    this.count = this.held = 0
  }

  /**
   * A note, so many frames after the start of the next block: velocity 0 ends the oldest that is held of its
   * pitch.
   */
  play(pitch: number, velocity: number, delay: number): void {
    if (this.count >= WAITING) return
    const { waiting } = this
    const before = 3 * ((this.from + this.count - 1) % WAITING)
    const at = 3 * ((this.from + this.count) % WAITING)
    const due = this.now + delay
    waiting[at] = pitch
    waiting[at + 1] = velocity
    // none overtakes another
    waiting[at + 2] = this.count > 0 && waiting[before + 2] > due ? waiting[before + 2] : due
    this.count++
  }

  /** Passes on what is due in this block. */
  pass(): void {
    const { stream, waiting } = this
    while (this.count > 0 && !stream.isFull) {
      const at = 3 * this.from
      const frame = waiting[at + 2] - this.now
      if (frame >= BLOCK) return
      this.write(frame > 0 ? Math.floor(frame) : 0, waiting[at], waiting[at + 1])
      this.from = (this.from + 1) % WAITING
      this.count--
    }
  }

  /** The block has been worked out. */
  goOn(): void {
    this.now += BLOCK
  }

  private write(frame: number, pitch: number, velocity: number): void {
    const { ids, pitches, stream } = this
    if (velocity > 0) {
      if (this.held === LIVE) this.end(frame, 0)
      ids[this.held] = stream.nextId++
      pitches[this.held++] = pitch
      stream.write(frame, 1, stream.nextId - 1, pitch, velocity)
      return
    }
    for (let k = 0; k < this.held; k++) if (pitches[k] === pitch) return this.end(frame, k)
  }

  private end(frame: number, k: number): void {
    const { ids, pitches } = this
    this.stream.write(frame, 0, ids[k], pitches[k], 0)
    ids.copyWithin(k, k + 1, this.held)
    pitches.copyWithin(k, k + 1, this.held)
    this.held--
  }
}
