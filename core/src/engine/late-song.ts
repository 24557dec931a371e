import { BLOCK, type SongBlock, songBlock } from '../contract/block'

/**
 * The song as it is where sound comes so many frames late: the clock at the input of everything that stands
 * behind latency. Shared by all that are as late.
 */
export class LateSong {
  readonly song = songBlock()
  private readonly ring: {
    readonly beats: Float64Array
    readonly run: Float64Array
    readonly frames: Float64Array
    readonly playing: Uint8Array
  }
  private head = 0
  /** Whether it has not run yet; the past is then extrapolated. */
  private fresh = true
  private last = NaN
  /** Frames until the song begins; negative once it has. */
  private lead = -1

  constructor(
    private readonly source: SongBlock,
    readonly late: number,
  ) {
    this.ring = {
      beats: new Float64Array(late),
      run: new Float64Array(late),
      frames: new Float64Array(late),
      playing: new Uint8Array(late),
    }
  }

  reset(): void {
    this.fresh = true
  }

  /** Works out the block that belongs to the source's. */
  process(): void {
    const { source, song, ring, late } = this
    if (this.fresh) this.prime()
    let { head } = this
    // whether it plays is the same for a block
    song.playing = ring.playing[head] === 1
    song.jump = -1
    song.begins = this.lead
    this.lead = this.lead > 0 ? Math.max(0, this.lead - BLOCK) : -1
    let { last } = this
    for (let i = 0; i < BLOCK; i++) {
      const frame = ring.frames[head]
      song.beats[i] = ring.beats[head]
      song.run[i] = ring.run[head]
      song.frames[i] = frame
      if (song.playing && ring.playing[head] === 1 && frame !== last + 1 && frame !== last) song.jump = i
      last = frame
      ring.beats[head] = source.beats[i]
      ring.run[head] = source.run[i]
      ring.frames[head] = source.frames[i]
      ring.playing[head] = source.playing ? 1 : 0
      if (++head === late) head = 0
    }
    this.last = last
    this.head = head
    song.beatsPerFrame = source.beatsPerFrame
    song.loopStart = source.loopStart
    song.loopEnd = source.loopEnd
    song.aim = source.aim
  }

  /** Fills the time before the first block: while it plays, the way there in a straight line. */
  private prime(): void {
    const { source, ring, late } = this
    this.fresh = false
    this.head = 0
    const step = source.playing ? 1 : 0
    for (let k = 0; k < late; k++) {
      const before = step * (late - k)
      ring.frames[k] = source.frames[0] - before
      ring.beats[k] = source.beats[0] - before * source.beatsPerFrame
      ring.run[k] = source.run[0] - before * source.beatsPerFrame
    }
    ring.playing.fill(step)
    this.lead = source.playing ? late : -1
    this.last = ring.frames[0] - step
  }
}
