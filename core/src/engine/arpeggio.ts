import { FRACTION } from '../dsp/fraction'
import { mix32 } from '../dsp/random'
import type { Arpeggio } from '../project/schema'
import { BLOCK, type NoteBlock, type SongBlock, pushNote } from '../contract/block'

/** Notes that can be held, and notes that can sound. */
const HELD = 64
/** Share of a frame by which a step may fall before a frame and still begin with it. */
const TOLERANCE = 1e-6

/**
 * Plays held notes one after the other, or as a chord, on an even grid: of the song while it plays, of its
 * own from the first key on while the song stands. A step comes at the first frame that its time does not
 * come after.
 */
export class ArpeggioPlayer {
  private set: Arpeggio
  // held notes in the order in which they came: number, pitch, velocity, whether the key is down
  private readonly ids = new Float64Array(HELD)
  private readonly pitches = new Float64Array(HELD)
  private readonly velocities = new Float64Array(HELD)
  private readonly down = new Uint8Array(HELD)
  private held = 0
  private keys = 0
  /** Number of the next note that it plays. */
  private nextId = 1
  // notes that sound: number, pitch, and the time at which they end on the grid
  private readonly soundIds = new Float64Array(HELD)
  private readonly sounds = new Float64Array(HELD)
  private readonly ends = new Float64Array(HELD)
  private sounding = 0
  private readonly order = new Int32Array(HELD)
  /** Steps since the first key. */
  private count = 0
  /** Time on the grid up to which steps have been played. */
  private played = FRACTION
  /** The grid's own time while the song stands. */
  private own = FRACTION
  private wasPlaying = false

  constructor(set: Arpeggio) {
    this.set = set
    this.reset()
  }

  take(set: Arpeggio): void {
    this.set = set
  }

  reset(): void {
    this.held = this.keys = this.sounding = this.count = 0
    this.own = this.played = 0
    this.wasPlaying = false
  }

  /** Turns the notes that begin and end in a block into those that the arpeggio plays. */
  process(from: NoteBlock, to: NoteBlock, song: SongBlock): void {
    to.count = 0
    const { beatsPerFrame: perFrame } = song
    if (song.playing !== this.wasPlaying) {
      // the grid is another one: what sounds is let go of
      this.endAll(to, 0)
      this.wasPlaying = song.playing
      this.own = 0
      this.played = (song.playing ? song.run[0] : 0) - perFrame * (1 - TOLERANCE)
    }
    const first = song.playing ? song.run[0] : this.own
    let e = 0
    for (;;) {
      const key = e < from.count ? from.frame[e] : BLOCK
      const end = this.nextEnd(first, perFrame)
      const step = this.nextStep(first, perFrame)
      if (end < BLOCK && end <= key && end <= step) this.endFirst(to, end)
      else if (key < BLOCK && key <= step) this.key(from, e++, song.playing, first + key * perFrame, perFrame)
      else if (step < BLOCK) this.step(to, step, first + step * perFrame)
      else break
    }
    const last = first + (BLOCK - 1 + TOLERANCE) * perFrame
    if (this.played < last) this.played = last
    if (!song.playing) this.own += BLOCK * perFrame
  }

  private key(from: NoteBlock, e: number, playing: boolean, now: number, perFrame: number): void {
    if (from.begins[e] === 1) {
      // a new chord takes the place of one that is only kept
      if (this.keys === 0 && (!this.set.hold || this.held > 0)) this.held = 0
      if (this.held === HELD) return
      if (this.held === 0) {
        this.count = 0
        // while the song stands, the first key begins the grid
        if (!playing) {
          this.own -= now
          for (let k = 0; k < this.sounding; k++) this.ends[k] -= now
          this.played = -perFrame * (1 - TOLERANCE)
        }
      }
      this.ids[this.held] = from.id[e]
      this.pitches[this.held] = from.pitch[e]
      this.velocities[this.held] = from.velocity[e]
      this.down[this.held++] = 1
      this.keys++
      return
    }
    for (let k = 0; k < this.held; k++) {
      if (this.ids[k] !== from.id[e] || this.down[k] === 0) continue
      this.keys--
      this.down[k] = 0
      if (!this.set.hold) this.remove(k)
      return
    }
  }

  private remove(k: number): void {
    this.ids.copyWithin(k, k + 1, this.held)
    this.pitches.copyWithin(k, k + 1, this.held)
    this.velocities.copyWithin(k, k + 1, this.held)
    this.down.copyWithin(k, k + 1, this.held)
    this.held--
  }

  /** Time on the grid of a step, every second one later by the swing. */
  private timeOf(n: number): number {
    return (n + (n % 2 === 0 ? 0 : this.set.swing)) * this.set.step
  }

  /** Frame at which the next step comes; BLOCK or more for none in this block. */
  private nextStep(first: number, perFrame: number): number {
    if (this.held === 0) return BLOCK
    let n = Math.floor(this.played / this.set.step) - 1
    if (n < 0) n = 0
    while (this.timeOf(n) <= this.played) n++
    return Math.max(0, Math.ceil((this.timeOf(n) - first) / perFrame - TOLERANCE))
  }

  private nextEnd(first: number, perFrame: number): number {
    let next = Infinity
    for (let k = 0; k < this.sounding; k++) if (this.ends[k] < next) next = this.ends[k]
    return next === Infinity ? BLOCK : Math.max(0, Math.ceil((next - first) / perFrame - TOLERANCE))
  }

  private endFirst(to: NoteBlock, frame: number): void {
    let first = 0
    for (let k = 1; k < this.sounding; k++) if (this.ends[k] < this.ends[first]) first = k
    this.end(to, frame, first)
  }

  private end(to: NoteBlock, frame: number, k: number): void {
    pushNote(to, frame, 0, this.soundIds[k], this.sounds[k], 0)
    this.sounding--
    this.soundIds[k] = this.soundIds[this.sounding]
    this.sounds[k] = this.sounds[this.sounding]
    this.ends[k] = this.ends[this.sounding]
  }

  private endAll(to: NoteBlock, frame: number): void {
    while (this.sounding > 0) this.end(to, frame, this.sounding - 1)
  }

  private step(to: NoteBlock, frame: number, now: number): void {
    const { set, held } = this
    this.played = now + TOLERANCE
    const own = set.steps.length > 0 ? set.steps[this.count % set.steps.length] : plainStep
    if (set.order === 'chord') {
      const octave = this.count % set.octaves
      for (let k = 0; k < held; k++)
        this.begin(
          to,
          frame,
          now,
          this.pitches[k] + 12 * octave + own.transpose,
          this.velocities[k] * own.velocity,
        )
    } else {
      this.sort()
      const all = held * set.octaves
      const at = this.placeOf(all)
      const k = this.order[at % held]
      this.begin(
        to,
        frame,
        now,
        this.pitches[k] + 12 * Math.floor(at / held) + own.transpose,
        this.velocities[k] * own.velocity,
      )
    }
    this.count++
  }

  /** Which of all notes over all octaves is next. */
  private placeOf(all: number): number {
    const { count, set } = this
    if (set.order === 'down') return all - 1 - (count % all)
    if (set.order === 'random') return Math.floor((mix32(count + 1) / 4294967296) * all)
    if (set.order !== 'to-and-fro' || all === 1) return count % all
    const at = count % (2 * all - 2)
    return at < all ? at : 2 * all - 2 - at
  }

  /** Held notes by pitch, or as they came. */
  private sort(): void {
    const { order, pitches, held } = this
    for (let k = 0; k < held; k++) {
      let at = k
      if (this.set.order !== 'as played')
        for (; at > 0 && pitches[order[at - 1]] > pitches[k]; at--) order[at] = order[at - 1]
      order[at] = k
    }
  }

  private begin(to: NoteBlock, frame: number, now: number, pitch: number, velocity: number): void {
    if (velocity <= 0 || pitch < 0 || pitch > 127) return
    for (let k = this.sounding - 1; k >= 0; k--) if (this.sounds[k] === pitch) this.end(to, frame, k)
    if (this.sounding === HELD) return
    pushNote(to, frame, 1, this.nextId, pitch, velocity > 1 ? 1 : velocity)
    this.soundIds[this.sounding] = this.nextId++
    this.sounds[this.sounding] = pitch
    this.ends[this.sounding++] = now + this.set.gate * this.set.step
  }
}

const plainStep = { transpose: 0, velocity: 1 }
