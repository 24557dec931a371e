import { BLOCK, type NoteBlock, noteBlock, pushNote } from '../contract/block'
import { OutputDelay } from './output-delay'

/** Notes that can be on their way. */
const WAITING = 4096

/** The notes of a track, delayed by so many frames of latency. Shared by all users with that latency. */
export class LateNotes {
  readonly out: NoteBlock
  // frame at which each is due, whether it begins, its number, pitch and velocity: a ring
  private readonly ring = new Float64Array(5 * WAITING)
  private from = 0
  private count = 0
  private now = 0
  private readonly bend: OutputDelay
  private readonly pressure: OutputDelay

  constructor(
    private readonly source: NoteBlock,
    readonly late: number,
  ) {
    this.bend = new OutputDelay(late)
    this.pressure = new OutputDelay(late)
    this.out = { ...noteBlock(), bend: this.bend.out, pressure: this.pressure.out }
  }

  reset(): void {
    this.count = 0
    this.bend.reset()
    this.pressure.reset()
  }

  /** Takes over what is on its way in another, so that no note that has begun misses its end. */
  takeOver({ ring, from, count, now, late }: LateNotes): void {
    for (let k = 0; k < count; k++) {
      const at = 5 * ((from + k) % WAITING)
      this.ring.set(ring.subarray(at, at + 5), 5 * k)
      this.ring[5 * k] += this.now - now + this.late - late
    }
    this.from = 0
    this.count = count
  }

  /** Works out the block that belongs to the source's. */
  process(): void {
    const { source, out, ring } = this
    for (let k = 0; k < source.count && this.count < WAITING; k++) {
      const at = 5 * ((this.from + this.count++) % WAITING)
      ring[at] = this.now + source.frame[k] + this.late
      ring[at + 1] = source.begins[k]
      ring[at + 2] = source.id[k]
      ring[at + 3] = source.pitch[k]
      ring[at + 4] = source.velocity[k]
    }
    out.count = 0
    while (this.count > 0) {
      const at = 5 * this.from
      const frame = ring[at] - this.now
      if (frame >= BLOCK) break
      pushNote(
        out,
        frame > 0 ? frame : 0,
        ring[at + 1] === 1 ? 1 : 0,
        ring[at + 2],
        ring[at + 3],
        ring[at + 4],
      )
      this.from = (this.from + 1) % WAITING
      this.count--
    }
    this.bend.process(source.bend)
    this.pressure.process(source.pressure)
    this.now += BLOCK
  }
}
