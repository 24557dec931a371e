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
  private readonly held = new HeldNotes()
  private readonly sounds = new EndingNotes()
  /** Number of the next note that it plays. */
  private nextId = 1
  private readonly order = new Int32Array(HELD)
  /** Steps since the first key. */
  private count = 0
  /** Time on the grid up to which steps have been played. */
  private played = FRACTION
  /** The grid's own time while the song stands. */
  private own = FRACTION
  private wasPlaying = false

  constructor(private set: Arpeggio) {
    this.reset()
  }

  take(set: Arpeggio): void {
    this.set = set
  }

  reset(): void {
    this.held.count = this.held.keys = this.sounds.count = this.count = 0
    this.own = this.played = 0
    this.wasPlaying = false
  }

  /** Turns the notes that begin and end in a block into those that the arpeggio plays. */
  process(from: NoteBlock, to: NoteBlock, song: SongBlock): void {
    to.count = 0
    const { beatsPerFrame: perFrame } = song
    if (song.playing !== this.wasPlaying) {
      // the grid is another one: sounding notes are released
      this.sounds.endAll(to, 0)
      this.wasPlaying = song.playing
      this.own = 0
      this.played = (song.playing ? song.run[0] : 0) - perFrame * (1 - TOLERANCE)
    }
    const first = song.playing ? song.run[0] : this.own
    let e = 0
    for (;;) {
      const key = e < from.count ? from.frame[e] : BLOCK
      const end = this.sounds.nextEnd(first, perFrame)
      const step = this.nextStep(first, perFrame)
      if (end < BLOCK && end <= key && end <= step) this.sounds.endFirst(to, end)
      else if (key < BLOCK && key <= step) this.key(from, e++, song.playing, first + key * perFrame, perFrame)
      else if (step < BLOCK) this.step(to, step, first + step * perFrame)
      else break
    }
    const last = first + (BLOCK - 1 + TOLERANCE) * perFrame
    if (this.played < last) this.played = last
    if (!song.playing) this.own += BLOCK * perFrame
  }

  private key(from: NoteBlock, e: number, playing: boolean, now: number, perFrame: number): void {
    const { held, sounds } = this
    if (from.begins[e] !== 1) {
      held.lift(from.id[e], this.set.hold)
      return
    }
    // a new chord takes the place of one that is only kept
    if (held.keys === 0) held.count = 0
    if (held.count === HELD) return
    if (held.count === 0) {
      this.count = 0
      // while the song stands, the first key begins the grid
      if (!playing) {
        this.own -= now
        for (let k = 0; k < sounds.count; k++) sounds.ends[k] -= now
        this.played = -perFrame * (1 - TOLERANCE)
      }
    }
    held.press(from.id[e], from.pitch[e], from.velocity[e])
  }

  /** Time on the grid of a step, every second one later by the swing. */
  private timeOf(n: number): number {
    return (n + (n % 2 === 0 ? 0 : this.set.swing)) * this.set.step
  }

  /** Frame at which the next step comes; BLOCK or more for none in this block. */
  private nextStep(first: number, perFrame: number): number {
    if (this.held.count === 0) return BLOCK
    let n = Math.floor(this.played / this.set.step) - 1
    if (n < 0) n = 0
    while (this.timeOf(n) <= this.played) n++
    return Math.max(0, Math.ceil((this.timeOf(n) - first) / perFrame - TOLERANCE))
  }

  private step(to: NoteBlock, frame: number, now: number): void {
    const { set, held } = this
    const { count, pitches, velocities } = held
    this.played = now + TOLERANCE
    const own = set.steps.length > 0 ? set.steps[this.count % set.steps.length] : plainStep
    if (set.order === 'chord') {
      const shift = 12 * (this.count % set.octaves) + own.transpose
      for (let k = 0; k < count; k++)
        this.begin(to, frame, now, pitches[k] + shift, velocities[k] * own.velocity)
    } else {
      this.sort()
      const at = this.placeOf(count * set.octaves)
      const k = this.order[at % count]
      const shift = 12 * Math.floor(at / count) + own.transpose
      this.begin(to, frame, now, pitches[k] + shift, velocities[k] * own.velocity)
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
    const { order } = this
    const { pitches, count } = this.held
    for (let k = 0; k < count; k++) {
      let at = k
      if (this.set.order !== 'as played')
        for (; at > 0 && pitches[order[at - 1]] > pitches[k]; at--) order[at] = order[at - 1]
      order[at] = k
    }
  }

  private begin(to: NoteBlock, frame: number, now: number, pitch: number, velocity: number): void {
    if (velocity <= 0 || pitch < 0 || pitch > 127) return
    const { sounds } = this
    for (let k = sounds.count - 1; k >= 0; k--) if (sounds.pitches[k] === pitch) sounds.end(to, frame, k)
    if (sounds.count === HELD) return
    pushNote(to, frame, 1, this.nextId, pitch, velocity > 1 ? 1 : velocity)
    sounds.add(this.nextId++, pitch, now + this.set.gate * this.set.step)
  }
}

/** Notes that are held, in the order in which they came; some are only kept, their keys are up. */
class HeldNotes {
  readonly pitches = new Float64Array(HELD)
  readonly velocities = new Float64Array(HELD)
  count = 0
  /** Keys that are down. */
  keys = 0
  private readonly ids = new Float64Array(HELD)
  private readonly down = new Uint8Array(HELD)

  press(id: number, pitch: number, velocity: number): void {
    this.ids[this.count] = id
    this.pitches[this.count] = pitch
    this.velocities[this.count] = velocity
    this.down[this.count++] = 1
    this.keys++
  }

  lift(id: number, isKept: boolean): void {
    for (let k = 0; k < this.count; k++) {
      if (this.ids[k] !== id || this.down[k] === 0) continue
      this.keys--
      this.down[k] = 0
      if (!isKept) this.remove(k)
      return
    }
  }

  private remove(k: number): void {
    this.ids.copyWithin(k, k + 1, this.count)
    this.pitches.copyWithin(k, k + 1, this.count)
    this.velocities.copyWithin(k, k + 1, this.count)
    this.down.copyWithin(k, k + 1, this.count)
    this.count--
  }
}

/** Notes that sound, and the times at which they end on the grid. */
class EndingNotes {
  readonly pitches = new Float64Array(HELD)
  readonly ends = new Float64Array(HELD)
  count = 0
  private readonly ids = new Float64Array(HELD)

  add(id: number, pitch: number, end: number): void {
    this.ids[this.count] = id
    this.pitches[this.count] = pitch
    this.ends[this.count++] = end
  }

  /** Frame at which the next note ends; BLOCK or more for none in this block. */
  nextEnd(first: number, perFrame: number): number {
    let next = Infinity
    for (let k = 0; k < this.count; k++) if (this.ends[k] < next) next = this.ends[k]
    return next === Infinity ? BLOCK : Math.max(0, Math.ceil((next - first) / perFrame - TOLERANCE))
  }

  endFirst(to: NoteBlock, frame: number): void {
    let first = 0
    for (let k = 1; k < this.count; k++) if (this.ends[k] < this.ends[first]) first = k
    this.end(to, frame, first)
  }

  end(to: NoteBlock, frame: number, k: number): void {
    pushNote(to, frame, 0, this.ids[k], this.pitches[k], 0)
    this.count--
    this.ids[k] = this.ids[this.count]
    this.pitches[k] = this.pitches[this.count]
    this.ends[k] = this.ends[this.count]
  }

  endAll(to: NoteBlock, frame: number): void {
    while (this.count > 0) this.end(to, frame, this.count - 1)
  }
}

const plainStep = { transpose: 0, velocity: 1 }
