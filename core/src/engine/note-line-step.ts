import { FRACTION } from '../dsp/fraction'
import { DrawnShape } from '../dsp/drawn-shape'
import type { NoteLine, Track } from '../project/schema'
import { BLOCK, NOTE_EVENTS, type NoteBlock, type SongBlock, noteBlock } from '../contract/block'
import { ArpeggioPlayer } from './arpeggio'
import type { Step } from './step'

/** Notes of a line that can sound at once. */
const VOICES = 256
/** Live messages that can wait: half a second of 16,000 a second. */
const WAITING = 8192
/** Share of a frame by which a note may fall before a frame and still begin with it: far above rounding, far below hearing. */
const TOLERANCE = 1e-6

/** What of a track makes its notes. */
export type NotesOf = Pick<Track, 'line' | 'noteOffset' | 'arpeggio'>

/**
 * Plays a track's notes, each at the first frame that its start does not come after, and passes on those that are played live; an
 * arpeggio makes its own of both. Starts are looked for between the edge of the last block and that of this one, both in quarter notes
 * that only ever grow, so that no rounding can lose a note or play it twice. An offset has the line read earlier or later by whole frames.
 */
export class NoteLineStep implements Step {
  readonly out: NoteBlock = noteBlock()
  readonly keepsTime = true
  /** What an arpeggio is given. */
  private readonly raw: NoteBlock = noteBlock()
  private to: NoteBlock = this.out
  private arpeggio: ArpeggioPlayer | null = null
  private line: NoteLine | null = null
  private starts = new Float64Array(0)
  private order: NoteLine['notes'] = []
  private readonly bend = new DrawnShape()
  private readonly pressure = new DrawnShape()
  // notes that sound: pitch, and where they end in quarter notes as they pass
  private readonly pitches = new Float64Array(VOICES)
  private readonly ends = new Float64Array(VOICES)
  private sounding = 0
  // notes played live: pitch and velocity, a ring
  private readonly waiting = new Float64Array(2 * WAITING)
  private waitsFrom = 0
  private waits = 0
  private liveBend = FRACTION
  private livePressure = FRACTION
  /** Up to where the line has been played, in the quarter notes that it goes by; not a number before the first block. */
  private played = NaN
  /** Frames that the line is late; negative for early. */
  private late = 0
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
    this.late = Math.round((noteOffset ?? 0) * this.sampleRate)
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

  /** A note played live, from the next block on: velocity 0 ends it. */
  play(pitch: number, velocity: number): void {
    if (this.waits >= WAITING) return
    const at = 2 * ((this.waitsFrom + this.waits++) % WAITING)
    this.waiting[at] = pitch
    this.waiting[at + 1] = velocity
  }

  /** Bend (½ for none) and pressure of a live player, 0…1. */
  shape(bend: number, pressure: number): void {
    this.liveBend = bend
    this.livePressure = pressure
  }

  run(): void {
    const { to, song, line } = this
    to.count = 0
    while (this.waits > 0 && to.count < NOTE_EVENTS) {
      const at = 2 * this.waitsFrom
      this.event(0, this.waiting[at + 1] > 0 ? 1 : 0, this.waiting[at], this.waiting[at + 1])
      this.waitsFrom = (this.waitsFrom + 1) % WAITING
      this.waits--
    }
    if (!song.playing) {
      for (let k = 0; k < this.sounding; k++) this.event(0, 0, this.pitches[k], 0)
      this.sounding = 0
      this.played = this.began = NaN
      this.jumped = false
    } else {
      if (Number.isNaN(this.began)) this.began = song.run[0]
      if (line && this.starts.length > 0) {
        if (line.length > 0) this.playRounds(line.length)
        else this.playSong()
      } else this.endNotes(BLOCK)
    }
    if (this.arpeggio) this.arpeggio.process(this.raw, this.out, song)
    this.shapeBlock()
  }

  /** Rounds of the line's own length, counted on over the song's loop. */
  private playRounds(length: number): void {
    const { song, starts } = this
    const perFrame = song.beatsPerFrame
    const first = song.run[0] - this.late * perFrame
    const upTo = first + (BLOCK - 1 + TOLERANCE) * perFrame
    const begins = Number.isNaN(this.played)
    // a line that is early begins with what it has missed
    const from = begins ? Math.min(first, song.run[0]) - (1 - TOLERANCE) * perFrame : this.played
    const earliest = this.began - (1 - TOLERANCE) * perFrame
    this.played = upTo
    for (let round = Math.floor(from / length); round * length <= upTo; round++) {
      for (let k = 0; k < starts.length; k++) {
        const at = round * length + starts[k]
        // a note that starts behind the end of the line is never reached
        if (starts[k] >= length || at > upTo) break
        if (at > from && at >= 0 && at > earliest) this.begin(k, at, first)
      }
    }
    this.endNotes(BLOCK)
  }

  /** Played once, by the song's position, which jumps at the end of its loop; a line that is late or early goes round it by itself. */
  private playSong(): void {
    const { song, reads, late } = this
    const begins = Number.isNaN(this.played)
    if (song.jump >= 0) this.jumped = true
    let from = 0
    for (let i = 0; i < BLOCK; i++) {
      let at = song.frames[i] - late
      if (song.frames[i] < song.loopEnd) {
        if (at >= song.loopEnd) at -= song.loopEnd - song.loopStart
        else if (late > 0 && at < song.loopStart && this.jumped && (song.jump < 0 || i >= song.jump) && song.frames[i] >= song.loopStart)
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
    this.playStretch(from, BLOCK)
  }

  private playStretch(start: number, end: number): void {
    const { song, starts, reads } = this
    const perFrame = song.beatsPerFrame
    const first = reads[start]
    const upTo = first + (end - start - 1 + TOLERANCE) * perFrame
    const from = Number.isNaN(this.played) ? first - (1 - TOLERANCE) * perFrame : this.played
    this.played = upTo
    let low = 0
    let high = starts.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (starts[middle] <= from) low = middle + 1
      else high = middle
    }
    for (let k = low; k < starts.length && starts[k] <= upTo; k++) this.begin(k, starts[k], first, start)
    this.endNotes(end)
  }

  /** Begins a note at `at`, where frame `offset` stands at `first`. */
  private begin(index: number, at: number, first: number, offset = 0): void {
    const { song } = this
    const frame = Math.min(BLOCK - 1, Math.max(offset, offset + Math.ceil((at - first) / song.beatsPerFrame - TOLERANCE)))
    this.endNotes(frame + 1)
    const note = this.order[index]
    // a note whose end could not be told later does not begin
    if (this.sounding >= VOICES || this.to.count >= NOTE_EVENTS) return
    this.event(frame, 1, note.pitch, note.velocity)
    this.pitches[this.sounding] = note.pitch
    // at least a frame long
    this.ends[this.sounding++] = song.run[frame] + Math.max(song.beatsPerFrame, note.length)
  }

  /** Ends the notes whose end comes before frame `end` of this block, in the order of their ends. */
  private endNotes(end: number): void {
    const { song, ends, pitches } = this
    const before = song.run[end - 1] + TOLERANCE * song.beatsPerFrame
    for (;;) {
      let next = -1
      for (let k = 0; k < this.sounding; k++) if (ends[k] <= before && (next < 0 || ends[k] < ends[next])) next = k
      if (next < 0 || this.to.count >= NOTE_EVENTS) return
      const frame = Math.min(end - 1, Math.max(0, Math.ceil((ends[next] - song.run[0]) / song.beatsPerFrame - TOLERANCE)))
      this.event(frame, 0, pitches[next], 0)
      this.sounding--
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
    this.sounding = this.waits = 0
    this.played = this.began = NaN
    this.jumped = false
    this.arpeggio?.reset()
  }

  cut(): void {}

  private event(frame: number, begins: 0 | 1, pitch: number, velocity: number): void {
    const { to } = this
    if (to.count >= NOTE_EVENTS) return
    const k = to.count++
    to.frame[k] = frame
    to.begins[k] = begins
    to.pitch[k] = pitch
    to.velocity[k] = velocity
  }
}
