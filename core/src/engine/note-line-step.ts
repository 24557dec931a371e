import { FRACTION } from '../dsp/fraction'
import { DrawnShape } from '../dsp/drawn-shape'
import { LEAST_LINE, type NoteLine, type Track } from '../project/schema'
import { BLOCK, NOTE_EVENTS, type NoteBlock, type SongBlock, noteBlock, pushNote } from '../contract/block'
import { ArpeggioPlayer } from './arpeggio'
import type { LateNotes } from './late-notes'
import type { Step } from './step'

/** Notes of a line that can sound at once. */
const VOICES = 256
/** Live messages that can wait: half a second of 16,000 a second. */
const WAITING = 8192
/** Live notes that can be held at once. */
const LIVE = 128
/**
 * Share of a frame by which a note may fall before a frame and still begin with it: far above rounding, far
 * below hearing.
 */
const TOLERANCE = 1e-6

/** What of a track makes its notes. */
export type NotesOf = Pick<Track, 'line' | 'noteOffset' | 'arpeggio'>

/**
 * Plays a track's notes, each at the first frame that its start does not come after, and passes on those that
 * are played live; an arpeggio makes its own of both. Starts are looked for between the edge of the last
 * block and that of this one, both in quarter notes that only ever grow, so that no rounding can lose a note
 * or play it twice. Each end belongs to its own note and is counted from where that note exactly starts, not
 * from its first frame. An offset has the line read earlier or later by whole frames.
 */
export class NoteLineStep implements Step {
  readonly out: NoteBlock = noteBlock()
  readonly keepsTime = true
  /** Its notes as they are where sound comes late. */
  late: readonly LateNotes[] = []
  /** What an arpeggio is given. */
  private readonly raw: NoteBlock = noteBlock()
  private to: NoteBlock = this.out
  private arpeggio: ArpeggioPlayer | null = null
  private line: NoteLine | null = null
  private starts = new Float64Array(0)
  private order: NoteLine['notes'] = []
  private readonly bend = new DrawnShape()
  private readonly pressure = new DrawnShape()
  // notes that sound: number, pitch, and where they end in quarter notes as they pass
  private readonly ids = new Float64Array(VOICES)
  private readonly pitches = new Float64Array(VOICES)
  private readonly ends = new Float64Array(VOICES)
  private sounding = 0
  /** Number of the next note. */
  private nextId = 1
  // notes played live: pitch, velocity and the frame at which each is due, a ring
  private readonly waiting = new Float64Array(3 * WAITING)
  // those that are held, the oldest first
  private readonly liveIds = new Float64Array(LIVE)
  private readonly livePitches = new Float64Array(LIVE)
  private live = 0
  /** Frames of this block in which the song plays. */
  private frames = BLOCK
  /** Frames worked out so far. */
  private now = 0
  private waitsFrom = 0
  private waits = 0
  private liveBend = FRACTION
  private livePressure = FRACTION
  /**
   * Up to where the line has been played, in the quarter notes that it goes by; not a number before the first
   * block.
   */
  private played = NaN
  /** Frames that the line is played late; negative for early. */
  private offset = 0
  /** Where the song began to play, as quarter notes pass. */
  private began = NaN
  /** Whether the song has jumped since then. */
  private jumped = false
  /** Place in the song at which the line is read, frame by frame. */
  private readonly reads = new Float64Array(BLOCK)

  constructor(
    private readonly song: SongBlock,
    private readonly sampleRate: number,
  ) {
    this.liveBend = 0.5
  }

  /** Takes edited notes; those that sound go on to their ends. */
  set({ line, noteOffset, arpeggio }: NotesOf): void {
    this.offset = Math.round((noteOffset ?? 0) * this.sampleRate)
    if (!arpeggio?.on) {
      this.arpeggio = null
      this.to = this.out
    } else {
      if (this.arpeggio) this.arpeggio.take(arpeggio)
      else this.arpeggio = new ArpeggioPlayer(arpeggio)
      this.to = this.raw
    }
    if (line === this.line) return
    // what goes by the song and what goes by its own rounds counts differently
    if ((line?.length ?? 0) > 0 !== (this.line?.length ?? 0) > 0) this.played = NaN
    this.line = line
    this.order = line ? [...line.notes].sort((a, b) => a.start - b.start) : []
    this.starts = Float64Array.from(this.order, (n) => n.start)
    this.bend.set(line?.bend ?? [])
    this.pressure.set(line?.pressure ?? [])
  }

  mute(): void {
    this.out.count = 0
  }

  /**
   * A note played live, so many frames after the start of the next block: velocity 0 ends the oldest that is
   * held of its pitch.
   */
  play(pitch: number, velocity: number, delay = 0): void {
    if (this.waits >= WAITING) return
    const { waiting } = this
    const before = 3 * ((this.waitsFrom + this.waits - 1) % WAITING)
    const at = 3 * ((this.waitsFrom + this.waits) % WAITING)
    const due = this.now + delay
    waiting[at] = pitch
    waiting[at + 1] = velocity
    // none overtakes another
    waiting[at + 2] = this.waits > 0 && waiting[before + 2] > due ? waiting[before + 2] : due
    this.waits++
  }

  /** Bend (½ for none) and pressure of a live player, 0…1. */
  shape(bend: number, pressure: number): void {
    this.liveBend = bend
    this.livePressure = pressure
  }

  run(): void {
    const { to, song, line } = this
    to.count = 0
    this.playLive()
    if (!song.playing) {
      this.endAll(0)
      this.played = this.began = NaN
      this.jumped = false
    } else {
      if (Number.isNaN(this.began)) this.began = song.run[0]
      this.frames = song.stop < 0 ? BLOCK : song.stop
      if (line && this.starts.length > 0) {
        if (line.length > 0) this.playRounds(Math.max(LEAST_LINE, line.length))
        else this.playSong()
      } else this.endNotes(this.frames)
      if (song.stop >= 0) this.endAll(song.stop)
    }
    if (this.arpeggio) this.arpeggio.process(this.raw, this.out, song)
    this.shapeBlock()
    this.now += BLOCK
    for (let k = 0; k < this.late.length; k++) this.late[k].process()
  }

  /** Ends every note of the line that sounds. */
  private endAll(frame: number): void {
    for (let k = 0; k < this.sounding; k++) this.event(frame, 0, this.ids[k], this.pitches[k], 0)
    this.sounding = 0
  }

  /** Passes on what is played live and due in this block. */
  private playLive(): void {
    const { to, waiting } = this
    while (this.waits > 0 && to.count < NOTE_EVENTS) {
      const at = 3 * this.waitsFrom
      const frame = waiting[at + 2] - this.now
      if (frame >= BLOCK) return
      this.liveEvent(frame > 0 ? Math.floor(frame) : 0, waiting[at], waiting[at + 1])
      this.waitsFrom = (this.waitsFrom + 1) % WAITING
      this.waits--
    }
  }

  private liveEvent(frame: number, pitch: number, velocity: number): void {
    const { liveIds, livePitches } = this
    if (velocity > 0) {
      if (this.live === LIVE) this.endLive(frame, 0)
      liveIds[this.live] = this.nextId++
      livePitches[this.live++] = pitch
      this.event(frame, 1, this.nextId - 1, pitch, velocity)
      return
    }
    for (let k = 0; k < this.live; k++) if (livePitches[k] === pitch) return this.endLive(frame, k)
  }

  private endLive(frame: number, k: number): void {
    const { liveIds, livePitches } = this
    this.event(frame, 0, liveIds[k], livePitches[k], 0)
    liveIds.copyWithin(k, k + 1, this.live)
    livePitches.copyWithin(k, k + 1, this.live)
    this.live--
  }

  /** Rounds of the line's own length, counted on over the song's loop. */
  private playRounds(length: number): void {
    const { song, starts } = this
    const perFrame = song.beatsPerFrame
    const first = song.run[0] - this.offset * perFrame
    const upTo = first + (this.frames - 1 + TOLERANCE) * perFrame
    const begins = Number.isNaN(this.played)
    // a line that is early begins with what it has missed
    const from = begins ? Math.min(first, song.run[0]) - (1 - TOLERANCE) * perFrame : this.played
    const earliest = this.began - (1 - TOLERANCE) * perFrame
    this.played = upTo
    for (let round = Math.floor(from / length); round * length <= upTo; round++) {
      for (let k = this.firstAfter(from - round * length); k < starts.length; k++) {
        const at = round * length + starts[k]
        // a note that starts behind the end of the line is never reached
        if (starts[k] >= length || at > upTo) break
        if (at > from && at >= 0 && at > earliest) this.begin(k, at, first)
      }
    }
    this.endNotes(this.frames)
  }

  /**
   * Played once, by the song's position, which jumps at the end of its loop; a line that is late or early
   * goes round it by itself.
   */
  private playSong(): void {
    const { song, reads, offset: late } = this
    const begins = Number.isNaN(this.played)
    if (song.jump >= 0) this.jumped = true
    let from = 0
    for (let i = 0; i < this.frames; i++) {
      let at = song.frames[i] - late
      if (song.frames[i] < song.loopEnd) {
        if (at >= song.loopEnd) at -= song.loopEnd - song.loopStart
        else if (
          late > 0 &&
          at < song.loopStart &&
          this.jumped &&
          (song.jump < 0 || i >= song.jump) &&
          song.frames[i] >= song.loopStart
        )
          at += song.loopEnd - song.loopStart
      }
      reads[i] = at * song.beatsPerFrame
      if (i === 0 && reads[0] < this.played) this.played = NaN
      if (i > 0 && (reads[i] < reads[i - 1] || (i === song.jump && late === 0))) {
        this.playStretch(from, i)
        this.played = NaN
        from = i
      }
    }
    // a line that is early begins with what it has missed
    if (begins && late < 0) this.played = song.beats[0] - (1 - TOLERANCE) * song.beatsPerFrame
    this.playStretch(from, this.frames)
  }

  private playStretch(start: number, end: number): void {
    const { song, starts, reads } = this
    const perFrame = song.beatsPerFrame
    const first = reads[start]
    const upTo = first + (end - start - 1 + TOLERANCE) * perFrame
    const from = Number.isNaN(this.played) ? first - (1 - TOLERANCE) * perFrame : this.played
    this.played = upTo
    for (let k = this.firstAfter(from); k < starts.length && starts[k] <= upTo; k++)
      this.begin(k, starts[k], first, start)
    this.endNotes(end)
  }

  /** The first note that starts after a place of the line. */
  private firstAfter(place: number): number {
    const { starts } = this
    let low = 0
    let high = starts.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (starts[middle] <= place) low = middle + 1
      else high = middle
    }
    return low
  }

  /** Begins a note at `at`, where frame `offset` stands at `first`. */
  private begin(index: number, at: number, first: number, offset = 0): void {
    const { song } = this
    // a block that is full takes no more, however many its line has
    if (this.to.count >= NOTE_EVENTS) return
    const frame = Math.min(
      BLOCK - 1,
      Math.max(offset, offset + Math.ceil((at - first) / song.beatsPerFrame - TOLERANCE)),
    )
    this.endNotes(frame + 1)
    const note = this.order[index]
    // a note whose end could not be told later does not begin
    if (this.sounding >= VOICES || this.to.count >= NOTE_EVENTS) return
    const id = this.nextId++
    this.event(frame, 1, id, note.pitch, note.velocity)
    this.ids[this.sounding] = id
    this.pitches[this.sounding] = note.pitch
    // at least a frame long
    this.ends[this.sounding++] = Math.max(
      song.run[frame] + song.beatsPerFrame,
      song.run[offset] + (at - first) + note.length,
    )
  }

  /** Ends the notes whose end comes before frame `end` of this block, in the order of their ends. */
  private endNotes(end: number): void {
    const { song, ends, pitches, ids } = this
    const before = song.run[end - 1] + TOLERANCE * song.beatsPerFrame
    for (;;) {
      let next = -1
      for (let k = 0; k < this.sounding; k++)
        if (ends[k] <= before && (next < 0 || ends[k] < ends[next])) next = k
      if (next < 0 || this.to.count >= NOTE_EVENTS) return
      const frame = Math.min(
        end - 1,
        Math.max(0, Math.ceil((ends[next] - song.run[0]) / song.beatsPerFrame - TOLERANCE)),
      )
      this.event(frame, 0, ids[next], pitches[next], 0)
      this.sounding--
      ids[next] = ids[this.sounding]
      pitches[next] = pitches[this.sounding]
      ends[next] = ends[this.sounding]
    }
  }

  private shapeBlock(): void {
    const { out, song, line } = this
    if (!line || !song.playing || (line.bend.length === 0 && line.pressure.length === 0)) {
      out.bend.hold(this.liveBend)
      out.pressure.hold(this.livePressure)
      return
    }
    const bends = out.bend.buffer
    const pressures = out.pressure.buffer
    const { length } = line
    for (let i = 0; i < BLOCK; i++) {
      const at = length > 0 ? song.run[i] - Math.floor(song.run[i] / length) * length : song.beats[i]
      const b = line.bend.length > 0 ? this.bend.at(at) + this.liveBend - 0.5 : this.liveBend
      const q = line.pressure.length > 0 ? this.pressure.at(at) : 0
      bends[i] = b < 0 ? 0 : b > 1 ? 1 : b
      pressures[i] = q > this.livePressure ? q : this.livePressure
    }
    out.bend.move()
    out.pressure.move()
  }

  reset(): void {
    this.sounding = this.waits = this.live = 0
    this.played = this.began = NaN
    this.jumped = false
    this.arpeggio?.reset()
    for (const late of this.late) late.reset()
  }

  cut(): void {}

  /**
   * Writes an event behind all that come before it or with it; what is played live may come between those of
   * the line.
   */
  private event(frame: number, begins: 0 | 1, id: number, pitch: number, velocity: number): void {
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
