import { NOTE_EVENTS, type NoteBlock, pushNote } from '../contract/block'

/** Writes notes into a block in the order of their frames, and numbers them. */
export class NoteStream {
  /** Number of the next note. */
  nextId = 1

  constructor(public to: NoteBlock) {}

  get isFull(): boolean {
    return this.to.count >= NOTE_EVENTS
  }

  /**
   * Writes an event behind all that come before it or with it; what is played live may come between those of
   * the line.
   */
  write(frame: number, begins: 0 | 1, id: number, pitch: number, velocity: number): void {
    const { to } = this
    const before = to.count
    pushNote(to, frame, begins, id, pitch, velocity)
    for (let k = before; k > 0 && to.count > before && to.frame[k - 1] > frame; k--) {
      to.frame[k] = to.frame[k - 1]
      to.begins[k] = to.begins[k - 1]
      to.id[k] = to.id[k - 1]
      to.pitch[k] = to.pitch[k - 1]
      to.velocity[k] = to.velocity[k - 1]
      to.frame[k - 1] = frame
      to.begins[k - 1] = begins
      to.id[k - 1] = id
      to.pitch[k - 1] = pitch
      to.velocity[k - 1] = velocity
    }
  }
}
