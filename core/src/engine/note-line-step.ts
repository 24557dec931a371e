import { FRACTION } from '../dsp/fraction'
import { DrawnShape } from '../dsp/drawn-shape'
import type { NoteLine } from '../project/schema'
import { BLOCK, NOTE_EVENTS, type NoteBlock, type SongBlock, noteBlock } from './block'
import type { Step } from './step'

/** Notes that can sound at once, and live messages that can wait for the next block. */
const VOICES = 64

/** Plays a track's notes, to the sample, and passes on those that are played live. */
export class NoteLineStep implements Step {
  readonly out: NoteBlock = noteBlock()
  private line: NoteLine | null = null
  private starts = new Float64Array(0)
  private order: NoteLine['notes'] = []
  private readonly bend = new DrawnShape()
  private readonly pressure = new DrawnShape()
  // notes that sound: pitch, and frames until they end
  private readonly pitches = new Float64Array(VOICES)
  private readonly left = new Float64Array(VOICES)
  private sounding = 0
  // notes, bend and pressure played live
  private readonly waiting = new Float64Array(3 * VOICES)
  private waits = 0
  private liveBend = 0.5
  private livePressure = FRACTION

  constructor(private readonly song: SongBlock) {}

  /** Takes an edited line; notes that sound go on to their ends. */
  set(line: NoteLine | null): void {
    if (line === this.line) return
    this.line = line
    this.order = line ? [...line.notes].sort((a, b) => a.start - b.start) : []
    this.starts = Float64Array.from(this.order, (n) => n.start)
    this.bend.set(line?.bend ?? [])
    this.pressure.set(line?.pressure ?? [])
  }

  /** A note played live, from the next block on: velocity 0 ends it. */
  play(pitch: number, velocity: number): void {
    if (this.waits >= VOICES) return
    this.waiting.set([pitch, velocity, 0], 3 * this.waits++)
  }

  /** Bend (½ for none) and pressure of a live player, 0…1. */
  shape(bend: number, pressure: number): void {
    this.liveBend = bend
    this.livePressure = pressure
  }

  run(): void {
    const { out, song, line } = this
    out.count = 0
    for (let k = 0; k < this.waits; k++) this.event(0, this.waiting[3 * k + 1] > 0 ? 1 : 0, this.waiting[3 * k], this.waiting[3 * k + 1])
    this.waits = 0
    if (!song.playing && this.sounding > 0) for (let k = 0; k < this.sounding; k++) this.left[k] = 0
    const length = line ? line.length : 0
    for (let i = 0; i < BLOCK && (this.sounding > 0 || (line && song.playing)); i++) {
      for (let k = this.sounding - 1; k >= 0; k--) {
        if (this.left[k]-- > 0) continue
        this.event(i, 0, this.pitches[k], 0)
        this.pitches[k] = this.pitches[--this.sounding]
        this.left[k] = this.left[this.sounding]
      }
      if (line && song.playing) this.begin(i, length > 0 ? song.run[i] - Math.floor(song.run[i] / length) * length : song.beats[i])
    }
    if (line && song.playing && (line.bend.length > 0 || line.pressure.length > 0)) {
      const bends = out.bend.buffer
      const pressures = out.pressure.buffer
      for (let i = 0; i < BLOCK; i++) {
        const at = length > 0 ? song.run[i] - Math.floor(song.run[i] / length) * length : song.beats[i]
        const b = line.bend.length > 0 ? this.bend.at(at) + this.liveBend - 0.5 : this.liveBend
        const q = line.pressure.length > 0 ? this.pressure.at(at) : 0
        bends[i] = b < 0 ? 0 : b > 1 ? 1 : b
        pressures[i] = q > this.livePressure ? q : this.livePressure
      }
      out.bend.move()
      out.pressure.move()
    } else {
      out.bend.hold(this.liveBend)
      out.pressure.hold(this.livePressure)
    }
  }

  reset(): void {
    this.sounding = this.waits = 0
  }

  cut(): void {}

  /** Begins the notes whose start is reached with this frame. */
  private begin(frame: number, at: number): void {
    const { starts, song } = this
    // a note whose start falls between two frames begins with the later one
    const half = 1e-9
    const from = at - song.beatsPerFrame
    let low = 0
    let high = starts.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (starts[middle] <= from + half) low = middle + 1
      else high = middle
    }
    for (let k = low; k < starts.length && starts[k] <= at + half; k++) {
      const note = this.order[k]
      this.event(frame, 1, note.pitch, note.velocity)
      if (this.sounding >= VOICES) continue
      this.pitches[this.sounding] = note.pitch
      this.left[this.sounding++] = Math.max(1, Math.round(note.length / song.beatsPerFrame) - 1)
    }
  }

  private event(frame: number, begins: 0 | 1, pitch: number, velocity: number): void {
    const { out } = this
    if (out.count >= NOTE_EVENTS) return
    const k = out.count++
    out.frame[k] = frame
    out.begins[k] = begins
    out.pitch[k] = pitch
    out.velocity[k] = velocity
  }
}
