import { prepareBandLimited } from '../dsp/band-limited-kernel'
import { hitPieces, knownHits } from '../dsp/hits'
import { FRACTION } from '../dsp/fraction'
import { exp2 } from '../dsp/math'
import { LoopRegion } from '../dsp/loop-region'
import { LoopStretch } from './loop-stretch'
import { type AudioData, framesOf } from '../contract/audio'
import { BLOCK, type ParamBlocks, type SongBlock, type StereoBlock } from '../contract/block'
import { amount, choice, gain, percent, seconds, semitones, tempo, toggle } from '../units/parameter'
import { type SourceBlock, type SourceProcessor, defineSource } from '../contract/source'

/** Frames over which a jump of the reading place is smoothed. */
const SMOOTHED = 96
/** The reading place before anything plays. */
const NOWHERE = -1e15
/** Longest sound whose hits are looked for, in seconds. */
const LONGEST = 120
const AS_IS = 0
const STRETCH = 2

const params = {
  play: choice(
    'Play',
    ['as is', 'varispeed', 'stretch'],
    0,
    'Plays as recorded, repitches to the song’s tempo, or stretches to it',
  ),
  tempo: tempo('Tempo', 96, 'Tempo of the recording, in bpm'),
  start: percent('Start', { default: 0, tip: 'Start of the sound', edit: 'exchanged' }),
  end: percent('End', { default: 1, tip: 'End of the loop', edit: 'exchanged' }),
  at: amount('At beat', {
    min: 0,
    max: 4096,
    default: 0,
    glide: 0,
    tip: 'Beat of the song at which it starts',
  }),
  loopFrom: percent('Loop from', {
    default: 0,
    tip: 'Position that the loop returns to',
    edit: 'exchanged',
  }),
  reverse: toggle('Reverse', false, 'Plays backwards'),
  tune: semitones('Tune', {
    min: -24,
    max: 24,
    default: 0,
    tip: 'Transposes the sound; when stretched, without changing the speed',
  }),
  hits: toggle('Keep transients', true, 'Keeps hits unchanged when stretching'),
  fadeIn: seconds('Fade in', { min: 0, max: 2, default: 0, tip: 'Fade at the start of each repeat' }),
  fadeOut: seconds('Fade out', { min: 0, max: 2, default: 0, tip: 'Fade at the end of each repeat' }),
  level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
}

type Params = ParamBlocks<typeof params>

/**
 * An audio loop that plays against the song position: as it is, at the song's tempo by varispeed (speed and
 * pitch together), or stretched to it with its pitch kept. It reads between samples by 8-tap windowed sinc,
 * and sample for sample where speed is 1. A jump in the song leaves no click: what the wave was about to do
 * fades into what it does now.
 */
export const loopSource = defineSource({
  id: 'loop',
  name: 'Audio loop',
  tip: 'Loops a sound, as recorded or at the song’s tempo',
  audio: true,
  fromSound: 'Loop',
  ownTempo: true,
  onSong: true,
  inPieces: true,
  load: { kB: 420, ns: 1300 },
  params,
  summary: (is) => {
    const bars = Math.round(is.bars * 10) / 10
    return is.bars > 0 ? `loop · ${bars} ${bars === 1 ? 'bar' : 'bars'}` : 'loop'
  },
  // hits of what is longer than a loop are not kept
  *prepare(audio) {
    prepareBandLimited(32)
    if (audio && !audio.pieces && framesOf(audio) <= LONGEST * audio.sampleRate) yield* hitPieces(audio)
  },
  create: ({ sampleRate }) => new LoopProcessor(sampleRate),
})

// places of `state`: reading place in frames after the start, frames left of the declick and its offsets,
// last samples, whether it waits for a piece
const AT = 0,
  DECLICK = 1,
  JUMP_L = 2,
  JUMP_R = 3,
  LAST_L = 4,
  LAST_R = 5,
  WAITS = 6

class LoopProcessor implements SourceProcessor<typeof params> {
  private readonly state = new Float64Array([NOWHERE, 0, 0, 0, 0, 0, 0])
  private readonly region = new LoopRegion()
  private readonly pair = new Float64Array(2)
  private stretch: LoopStretch | null = null
  /** Of the block at work: frames of the song before it begins, and speed before tuning. */
  private shift = 0
  private base = FRACTION

  constructor(private readonly sampleRate: number) {}

  reset(): void {
    this.state.fill(0)
    this.state[AT] = NOWHERE
    this.stretch?.reset()
  }

  skip({ song, audio }: SourceBlock, p: Params): void {
    const { state } = this
    this.stretch?.leave()
    this.follow(song, p)
    const { shift, base } = this
    const still = p.tune.constant
    const tunes = p.tune.values()
    let at = state[AT]
    let speed = still ? base * tuned(p.tune.value) : base
    if (!audio || !song.playing) at = NOWHERE
    else {
      if (audio.pieces) this.setRegion(audio, song, p)
      for (let i = 0; i < BLOCK; i++) {
        if (!still) speed = base * exp2(tunes[i] / 12)
        at = at === NOWHERE || i === song.jump ? (song.frames[i] - shift) * speed : at + speed
      }
    }
    state.fill(0)
    state[AT] = at
  }

  process({ out, song, audio }: SourceBlock, p: Params): void {
    const { state, region } = this
    if (!audio || framesOf(audio) === 0) {
      this.fadeOut(out)
      return
    }
    this.follow(song, p)
    this.setRegion(audio, song, p)
    if (!song.playing) {
      this.fadeOut(out)
      return
    }
    const waited = state[WAITS] > 0
    const wasL = state[LAST_L]
    const wasR = state[LAST_R]
    if (p.play.value === STRETCH) this.playStretched(out, song, audio, p)
    else this.play(out, song, p)
    if (song.stop >= 0) this.stopAt(out, song.stop)
    if (region.isMissing) {
      // what is only partly there is not heard: it ends softly, and begins softly when it has come
      state[LAST_L] = wasL
      state[LAST_R] = wasR
      this.fadeOut(out)
      state[WAITS] = 1
    } else if (waited) {
      for (let i = 0; i < BLOCK; i++) {
        const w = (i + 1) / BLOCK
        out.left[i] *= w
        out.right[i] *= w
      }
      state[WAITS] = 0
    }
  }

  private follow(song: SongBlock, p: Params): void {
    this.shift = Math.round(p.at.value / song.beatsPerFrame)
    this.base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, this.sampleRate)
  }

  /**
   * Takes the sound and its marks, and has what is played next of one in pieces brought: from here on, and
   * where the song goes back or is about to go.
   */
  private setRegion(audio: AudioData, song: SongBlock, p: Params): void {
    const { region, shift, base, state, sampleRate } = this
    region.set(
      audio,
      p.start.value,
      p.loopFrom.value,
      p.end.value,
      p.reverse.value >= 0.5,
      p.fadeIn.value * sampleRate,
      p.fadeOut.value * sampleRate,
      p.at.value > 0,
    )
    if (!audio.pieces) return
    region.want((song.frames[0] - shift) * base)
    region.want((song.loopStart - shift) * base)
    if (song.aim >= 0) region.want((song.aim - shift) * base)
    if (state[AT] !== NOWHERE) region.want(state[AT])
  }

  /** Fades out from the present place, and has no place from then on. */
  private fadeOut(out: StereoBlock): void {
    const { state } = this
    this.stretch?.leave()
    let l = state[LAST_L]
    let r = state[LAST_R]
    for (let i = 0; i < BLOCK; i++) {
      l *= 0.97
      r *= 0.97
      out.left[i] = l
      out.right[i] = r
    }
    const silent = Math.abs(l) + Math.abs(r) < 1e-7
    this.leave(silent ? 0 : l, silent ? 0 : r)
  }

  /** Ends softly at a frame of the block, from the sample before it: what would have come is not heard. */
  private stopAt(out: StereoBlock, frame: number): void {
    let l = out.left[frame - 1]
    let r = out.right[frame - 1]
    for (let i = frame; i < BLOCK; i++) {
      out.left[i] = l *= 0.97
      out.right[i] = r *= 0.97
    }
    this.leave(l, r)
  }

  /** Is nowhere from now on, after these last samples. */
  private leave(lastL: number, lastR: number): void {
    const { state } = this
    state.fill(0)
    state[AT] = NOWHERE
    state[LAST_L] = lastL
    state[LAST_R] = lastR
  }

  /** Stretched to the song's tempo. */
  private playStretched(out: StereoBlock, song: SongBlock, audio: AudioData, p: Params): void {
    const { state, shift, base } = this
    this.stretch ??= new LoopStretch(this.sampleRate)
    const hits = p.hits.value >= 0.5 && p.reverse.value < 0.5 ? knownHits(audio) : null
    this.stretch.process(out, song, this.region, base, p.tune.value, hits && hits.at, shift)
    const levels = p.level.values()
    for (let i = 0; i < BLOCK; i++) {
      out.left[i] *= levels[i]
      out.right[i] *= levels[i]
    }
    state.fill(0, 0, WAITS)
    state[AT] = (song.frames[BLOCK - 1] - shift) * base
    state[LAST_L] = out.left[BLOCK - 1]
    state[LAST_R] = out.right[BLOCK - 1]
  }

  /** As it is, or by varispeed. */
  private play(out: StereoBlock, song: SongBlock, p: Params): void {
    const { state, region } = this
    this.stretch?.leave()
    const exact = p.tune.constant && this.base * tuned(p.tune.value) === 1
    const isPlain = state[DECLICK] === 0 && song.jump < 0 && p.level.constant && region.isPlain
    // nearly always: sample for sample at one level, with no jump near
    if (exact && state[AT] >= 0 && isPlain) this.copy(out, p.level.value)
    else this.read(out, song, p, exact)
  }

  private copy({ left, right }: StereoBlock, level: number): void {
    const { state } = this
    const { from, length } = this.region
    let at = state[AT]
    for (let i = 0; i < BLOCK;) {
      const next = at + 1
      const first = Math.floor(next - Math.floor(next / length) * length)
      const end = Math.min(BLOCK, i + length - first)
      this.region.copy(from + first, left, right, i, end, level)
      at += end - i
      i = end
    }
    state[AT] = at
    state[LAST_L] = left[BLOCK - 1]
    state[LAST_R] = right[BLOCK - 1]
  }

  private read({ left, right }: StereoBlock, song: SongBlock, p: Params, exact: boolean): void {
    const { state, region, pair, shift, base } = this
    const levels = p.level.values()
    const still = p.tune.constant
    const tunes = p.tune.values()
    let speed = still ? base * tuned(p.tune.value) : base
    let at = state[AT]
    let declick = state[DECLICK]
    let lastL = state[LAST_L]
    let lastR = state[LAST_R]
    for (let i = 0; i < BLOCK; i++) {
      if (!still) speed = base * exp2(tunes[i] / 12)
      // The reading place follows the song where the song starts or jumps, and its own speed in between.
      const jumped = at !== NOWHERE && i === song.jump
      if (jumped) {
        const on = at + speed
        region.read(exact ? Math.floor(on) : on, pair, speed)
        const w = smoothed(declick)
        lastL = pair[0] * levels[i] + state[JUMP_L] * w
        lastR = pair[1] * levels[i] + state[JUMP_R] * w
      }
      if (at === NOWHERE || jumped) at = (song.frames[i] - shift) * speed
      else at += speed
      region.read(exact ? Math.floor(at) : at, pair, speed)
      const g = levels[i]
      let l = pair[0] * g
      let r = pair[1] * g
      if (jumped) {
        state[JUMP_L] = lastL - l
        state[JUMP_R] = lastR - r
        declick = SMOOTHED
      }
      if (declick > 0) {
        const w = smoothed(declick)
        l += state[JUMP_L] * w
        r += state[JUMP_R] * w
        declick--
      }
      left[i] = lastL = l
      right[i] = lastR = r
    }
    state[AT] = at
    state[DECLICK] = declick
    state[LAST_L] = lastL
    state[LAST_R] = lastR
  }
}

/** What is left of a difference while so many frames of it are to come. */
function smoothed(frames: number): number {
  const x = frames / SMOOTHED
  return x * x * (3 - 2 * x)
}

/** Frames of the sound that pass in one of the song, before tuning. */
const speedOf = (play: number, tempo: number, beatsPerFrame: number, sampleRate: number): number =>
  play === AS_IS ? 1 : (beatsPerFrame * sampleRate * 60) / tempo
const tuned = (semitones: number): number => (semitones === 0 ? 1 : exp2(semitones / 12))
