import { BLOCK, type SongBlock, songBlock } from '../contract/block'

/** Where the song is. Position in whole samples; the loop jumps to the sample. */
export class Transport {
  readonly song: SongBlock = songBlock()
  playing = false
  frame = 0
  /** Samples as they pass since playing began, counted on from the start position. */
  private runFrame = 0
  private tempo = 120
  private loopOn = false
  private loopStart = 0
  private loopEnd = 0
  /** Frames that are still played; infinite where nothing ends it. */
  private left = Infinity

  constructor(private readonly sampleRate: number) {}

  get beatsPerFrame(): number {
    return this.tempo / (60 * this.sampleRate)
  }
  get beat(): number {
    return this.frame * this.beatsPerFrame
  }
  /** Quarter notes as they pass since playing began. */
  get run(): number {
    return this.runFrame * this.beatsPerFrame
  }

  /** Position of the song so many frames ago, across the loop where it has jumped since. */
  beatBefore(frames: number): number {
    const since = this.frame - this.loopStart
    const jumped = this.loopOn && since >= 0 && frames > since && this.runFrame > since
    return (this.frame - frames + (jumped ? this.loopEnd - this.loopStart : 0)) * this.beatsPerFrame
  }

  toFrame(beat: number): number {
    return Math.round(beat / this.beatsPerFrame)
  }

  /** Takes tempo and loop of the project. A change of tempo keeps the beat. */
  configure(tempo: number, loop: { on: boolean; start: number; end: number }, looping: boolean): void {
    if (tempo !== this.tempo) {
      const { beat } = this
      const run = this.runFrame * this.beatsPerFrame
      this.tempo = tempo
      this.frame = this.toFrame(beat)
      this.runFrame = this.toFrame(run)
    }
    this.loopStart = this.toFrame(loop.start)
    this.loopEnd = this.toFrame(loop.end)
    this.loopOn = looping && loop.on && this.loopEnd > this.loopStart
  }

  /** Stands still at the song's start. */
  rewind(): void {
    this.stop()
    this.frame = this.runFrame = 0
  }

  /** Says where it will be played from in a moment. */
  aimAt(beat: number): void {
    this.song.aim = this.toFrame(beat)
  }

  /** Stops after exactly so many more frames. */
  stopAfter(frames: number): void {
    this.left = frames
  }

  stop(): void {
    this.playing = false
    this.left = Infinity
    this.song.aim = NaN
  }

  play(beat: number): void {
    this.song.aim = NaN
    this.frame = this.runFrame = this.toFrame(beat)
    this.left = Infinity
    this.playing = true
  }

  /** Fills the song block for the next frames and moves on. */
  advance(): SongBlock {
    const { song } = this
    const perFrame = this.beatsPerFrame
    if (this.left <= 0) this.stop()
    song.playing = this.playing
    song.stop = this.playing && this.left < BLOCK ? this.left : -1
    song.beatsPerFrame = perFrame
    song.jump = -1
    song.loopStart = this.loopStart
    song.loopEnd = this.loopOn ? this.loopEnd : Infinity
    let frame = this.frame
    if (!this.playing) {
      song.frames.fill(frame)
      song.beats.fill(frame * perFrame)
      song.run.fill(this.runFrame * perFrame)
      return song
    }
    const plays = song.stop < 0 ? BLOCK : song.stop
    for (let i = 0; i < plays; i++) {
      if (this.loopOn && frame === this.loopEnd) {
        frame = this.loopStart
        song.jump = i
      }
      song.frames[i] = frame
      song.beats[i] = frame * perFrame
      song.run[i] = (this.runFrame + i) * perFrame
      frame++
    }
    this.frame = frame
    this.runFrame += plays
    this.left -= BLOCK
    for (let i = plays; i < BLOCK; i++) {
      song.frames[i] = frame
      song.beats[i] = frame * perFrame
      song.run[i] = this.runFrame * perFrame
    }
    return song
  }
}
