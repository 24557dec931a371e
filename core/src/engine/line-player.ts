import { LEAST_LINE, type NoteLine } from '../project/schema'
import { BLOCK, type SongBlock } from '../contract/block'
import type { NoteStream } from './note-stream'

/** Notes of a line that can sound at once. */
const VOICES = 256
/**
 * Share of a frame by which a note may fall before a frame and still begin with it: far above rounding, far
 * below hearing.
 */
const TOLERANCE = 1e-6

/**
 * Reads a line of notes, each at the first frame that its start does not come after. Starts are looked for
 * between the edge of the last block and that of this one, both in quarter notes that only ever grow, so that
 * no rounding can lose a note or play it twice. An offset has the line read earlier or later by whole frames.
 */
export class LinePlayer {
  line: NoteLine | null = null
  /** Frames that the line is played late; negative for early. */
  offset = 0
  private starts = new Float64Array(0)
  private order: NoteLine['notes'] = []
  private readonly sounds: SoundingNotes
  /** Frames of this block in which the song plays. */
  private frames = BLOCK
  /**
   * Up to where the line has been played, in the quarter notes that it goes by; not a number before the first
   * block.
   */
  private played = NaN
  /** Where the song began to play, as quarter notes pass. */
  private began = NaN
  /** Whether the song has jumped since then. */
  private jumped = false
  /** Place in the song at which the line is read, frame by frame. */
  private readonly reads = new Float64Array(BLOCK)

  constructor(
    private readonly song: SongBlock,
    private readonly stream: NoteStream,
  ) {
    this.sounds = new SoundingNotes(song, stream)
  }

  /** Takes an edited line; sounding notes continue to their ends. */
  set(line: NoteLine | null): void {
    if (line === this.line) return
    // what goes by the song and what goes by its own rounds counts differently
    if ((line?.length ?? 0) > 0 !== (this.line?.length ?? 0) > 0) this.played = NaN
    this.line = line
    this.order = line ? [...line.notes].sort((a, b) => a.start - b.start) : []
    this.starts = Float64Array.from(this.order, (n) => n.start)
  }

  reset(): void {
    this.sounds.count = 0
    this.played = this.began = NaN
    this.jumped = false
  }

  run(): void {
    const { song, line, sounds } = this
    if (!song.playing) {
      sounds.endAll(0)
      this.played = this.began = NaN
      this.jumped = false
      return
    }
    if (Number.isNaN(this.began)) this.began = song.run[0]
    this.frames = song.stop < 0 ? BLOCK : song.stop
    if (line && this.starts.length > 0) {
      if (line.length > 0) this.playRounds(Math.max(LEAST_LINE, line.length))
      else this.playSong()
    } else sounds.endBefore(this.frames)
    if (song.stop >= 0) sounds.endAll(song.stop)
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
    this.sounds.endBefore(this.frames)
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
    this.sounds.endBefore(end)
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
    const { song, sounds, stream } = this
    // a full block takes no more notes, however many the line has
    if (stream.isFull) return
    const frame = Math.min(
      BLOCK - 1,
      Math.max(offset, offset + Math.ceil((at - first) / song.beatsPerFrame - TOLERANCE)),
    )
    this.sounds.endBefore(frame + 1)
    const note = this.order[index]
    // a note whose end could not be told later does not begin
    if (sounds.count >= VOICES || stream.isFull) return
    const id = stream.nextId++
    stream.write(frame, 1, id, note.pitch, note.velocity)
    // at least a frame long
    const end = song.run[offset] + (at - first) + note.length
    sounds.add(id, note.pitch, Math.max(song.run[frame] + song.beatsPerFrame, end))
  }
}

/** Notes of a line that sound; each end belongs to its own note and is counted from where that begins. */
class SoundingNotes {
  count = 0
  private readonly ids = new Float64Array(VOICES)
  private readonly pitches = new Float64Array(VOICES)
  /** Where they end, in quarter notes as they pass. */
  private readonly ends = new Float64Array(VOICES)

  constructor(
    private readonly song: SongBlock,
    private readonly stream: NoteStream,
  ) {}

  add(id: number, pitch: number, end: number): void {
    this.ids[this.count] = id
    this.pitches[this.count] = pitch
    this.ends[this.count++] = end
  }

  endAll(frame: number): void {
    for (let k = 0; k < this.count; k++) this.stream.write(frame, 0, this.ids[k], this.pitches[k], 0)
    this.count = 0
  }

  /** Ends the notes whose end comes before frame `end` of this block, in the order of their ends. */
  endBefore(end: number): void {
    const { song, ends, pitches, ids, stream } = this
    const before = song.run[end - 1] + TOLERANCE * song.beatsPerFrame
    for (;;) {
      let next = -1
      for (let k = 0; k < this.count; k++)
        if (ends[k] <= before && (next < 0 || ends[k] < ends[next])) next = k
      if (next < 0 || stream.isFull) return
      const frame = Math.min(
        end - 1,
        Math.max(0, Math.ceil((ends[next] - song.run[0]) / song.beatsPerFrame - TOLERANCE)),
      )
      stream.write(frame, 0, ids[next], pitches[next], 0)
      this.count--
      ids[next] = ids[this.count]
      pitches[next] = pitches[this.count]
      ends[next] = ends[this.count]
    }
  }
}
