import { prepareBandLimited } from '../dsp/band-limited-kernel'
import { hitPieces, knownHits } from '../dsp/hits'
import { exp2 } from '../dsp/math'
import { LoopRegion } from '../dsp/loop-region'
import { LoopStretch } from './loop-stretch'
import { type AudioData, framesOf } from '../contract/audio'
import { BLOCK, type ParamBlock, type SongBlock, type StereoBlock } from '../contract/block'
import { amount, choice, gain, percent, seconds, semitones, tempo, toggle } from '../units/parameter'
import { defineSource } from '../contract/source'

/** Frames over which a jump of the reading place is smoothed. */
const SMOOTHED = 96
/** The reading place before anything plays. */
const NOWHERE = -1e15
/** Longest sound whose hits are looked for, in seconds. */
const LONGEST = 120
const AS_IS = 0
const STRETCH = 2

type Params = Readonly<
  Record<
    | 'play'
    | 'tempo'
    | 'start'
    | 'end'
    | 'at'
    | 'loopFrom'
    | 'reverse'
    | 'tune'
    | 'hits'
    | 'fadeIn'
    | 'fadeOut'
    | 'level',
    ParamBlock
  >
>

/**
 * An audio loop that plays against the song position: as it is, at the song's tempo by varispeed (speed and
 * pitch together), or stretched to it with its pitch kept. It reads between samples by 8-tap windowed sinc,
 * and sample for sample where speed is 1. A jump in the song leaves no click: what the wave was about to do
 * fades into what it does now.
 */
export const loopSource = defineSource({
  id: 'loop',
  name: 'Audio loop',
  tip: 'A looped sound, as it is or at the song’s tempo',
  audio: true,
  fromSound: 'loops',
  ownTempo: true,
  onSong: true,
  inPieces: true,
  load: { kB: 420, ns: 1300 },
  params: {
    play: choice(
      'Play',
      ['as is', 'varispeed', 'stretch'],
      0,
      'As recorded; sped up or slowed down to the song’s tempo; or stretched to it at its own pitch',
    ),
    tempo: tempo('Tempo', 96, 'Tempo of the recording, in bpm'),
    start: percent('Start', { default: 0, tip: 'Where it begins', edit: 'exchanged' }),
    end: percent('End', { default: 1, tip: 'Where the loop ends', edit: 'exchanged' }),
    at: amount('At beat', {
      min: 0,
      max: 4096,
      default: 0,
      glide: 0,
      tip: 'Beat of the song at which it begins; it is silent before',
    }),
    loopFrom: percent('Loop from', {
      default: 0,
      tip: 'Where it goes back to from the end; before the start, it goes back to the start',
      edit: 'exchanged',
    }),
    reverse: toggle('Reverse', false, 'Plays backwards'),
    tune: semitones('Tune', {
      min: -24,
      max: 24,
      default: 0,
      tip: 'Speed and pitch together; stretched, pitch alone',
    }),
    hits: toggle('Keep hits', true, 'Stretched: hits sound as they were recorded, each at its own time'),
    fadeIn: seconds('Fade in', { min: 0, max: 2, default: 0, tip: 'At the beginning of each round' }),
    fadeOut: seconds('Fade out', { min: 0, max: 2, default: 0, tip: 'At the end of each round' }),
    level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
  },
  summary: (is) => {
    const bars = Math.round(is.bars * 10) / 10
    return is.bars > 0 ? `loop · ${bars} ${bars === 1 ? 'bar' : 'bars'}` : 'loop'
  },
  // hits of what is longer than a loop are not kept
  *prepare(audio) {
    prepareBandLimited(32)
    if (audio && !audio.pieces && framesOf(audio) <= LONGEST * audio.sampleRate) yield* hitPieces(audio)
  },
  create: ({ sampleRate }) => {
    // reading place in frames after the start, frames left of the declick, its offsets, last samples, whether
    // it waits for a piece
    const state = new Float64Array([NOWHERE, 0, 0, 0, 0, 0, 0])
    const region = new LoopRegion()
    const pair = new Float64Array(2)
    let stretch: LoopStretch | null = null

    /**
     * Takes the sound and its marks, and has what is played next of one in pieces brought: from here on, and
     * where the song goes back or is about to go.
     */
    const setRegion = (audio: AudioData, song: SongBlock, p: Params, shift: number, base: number): void => {
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
      if (state[0] !== NOWHERE) region.want(state[0])
    }

    /** Fades out from wherever it was, and is nowhere from then on. */
    const fadeOut = (out: StereoBlock): void => {
      let l = state[4],
        r = state[5]
      for (let i = 0; i < BLOCK; i++) {
        l *= 0.97
        r *= 0.97
        out.left[i] = l
        out.right[i] = r
      }
      const silent = Math.abs(l) + Math.abs(r) < 1e-7
      state.fill(0)
      state[0] = NOWHERE
      state[4] = silent ? 0 : l
      state[5] = silent ? 0 : r
    }

    /**
     * Ends softly at a frame of the block, from the sample before it: what would have come after is not
     * heard.
     */
    const stopAt = (out: StereoBlock, frame: number): void => {
      let l = out.left[frame - 1]
      let r = out.right[frame - 1]
      for (let i = frame; i < BLOCK; i++) {
        out.left[i] = l *= 0.97
        out.right[i] = r *= 0.97
      }
      state.fill(0)
      state[0] = NOWHERE
      state[4] = l
      state[5] = r
    }

    /** Stretched to the song's tempo. */
    const playStretched = (
      out: StereoBlock,
      song: SongBlock,
      audio: AudioData,
      p: Params,
      shift: number,
      base: number,
    ): void => {
      const outL = out.left,
        outR = out.right
      stretch ??= new LoopStretch(sampleRate)
      const hits = p.hits.value >= 0.5 && p.reverse.value < 0.5 ? knownHits(audio) : null
      stretch.process(out, song, region, base, p.tune.value, hits && hits.at, shift)
      const levels = p.level.values()
      for (let i = 0; i < BLOCK; i++) {
        outL[i] *= levels[i]
        outR[i] *= levels[i]
      }
      state.fill(0, 0, 6)
      state[0] = (song.frames[BLOCK - 1] - shift) * base
      state[4] = outL[BLOCK - 1]
      state[5] = outR[BLOCK - 1]
    }

    /** As it is, or by varispeed. */
    const play = (out: StereoBlock, song: SongBlock, p: Params, shift: number, base: number): void => {
      const outL = out.left,
        outR = out.right
      let at = state[0],
        declick = state[1],
        jumpL = state[2],
        jumpR = state[3],
        lastL = state[4],
        lastR = state[5]
      const levels = p.level.values()
      stretch?.leave()
      const still = p.tune.constant
      const tunes = p.tune.values()
      let speed = still ? base * tuned(p.tune.value) : base
      const exact = still && speed === 1
      // nearly always: sample for sample at one level, with no jump near
      if (exact && at >= 0 && declick === 0 && song.jump < 0 && p.level.constant && region.isPlain) {
        const { from, length } = region
        for (let i = 0; i < BLOCK;) {
          const next = at + 1
          const first = Math.floor(next - Math.floor(next / length) * length)
          const end = Math.min(BLOCK, i + length - first)
          region.copy(from + first, outL, outR, i, end, levels[0])
          at += end - i
          i = end
        }
        state[0] = at
        state[4] = outL[BLOCK - 1]
        state[5] = outR[BLOCK - 1]
        return
      }
      for (let i = 0; i < BLOCK; i++) {
        if (!still) speed = base * exp2(tunes[i] / 12)
        // The reading place follows the song where the song starts or jumps, and its own speed in between.
        const jumped = at !== NOWHERE && i === song.jump
        if (at === NOWHERE || jumped) at = (song.frames[i] - shift) * speed
        else at += speed
        region.read(exact ? Math.floor(at) : at, pair, speed)
        const g = levels[i]
        let l = pair[0] * g
        let r = pair[1] * g
        if (jumped) {
          jumpL = lastL - l
          jumpR = lastR - r
          declick = SMOOTHED
        }
        if (declick > 0) {
          const x = declick / SMOOTHED
          const w = x * x * (3 - 2 * x)
          l += jumpL * w
          r += jumpR * w
          declick--
        }
        outL[i] = lastL = l
        outR[i] = lastR = r
      }
      state[0] = at
      state[1] = declick
      state[2] = jumpL
      state[3] = jumpR
      state[4] = lastL
      state[5] = lastR
    }

    return {
      reset() {
        state.fill(0)
        state[0] = NOWHERE
        stretch?.reset()
      },
      skip({ song, audio }, p) {
        stretch?.leave()
        let at = state[0]
        const base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, sampleRate)
        const still = p.tune.constant
        const tunes = p.tune.values()
        let speed = still ? base * tuned(p.tune.value) : base
        const shift = Math.round(p.at.value / song.beatsPerFrame)
        if (!audio || !song.playing) at = NOWHERE
        else {
          if (audio.pieces) setRegion(audio, song, p, shift, base)
          for (let i = 0; i < BLOCK; i++) {
            if (!still) speed = base * exp2(tunes[i] / 12)
            at = at === NOWHERE || i === song.jump ? (song.frames[i] - shift) * speed : at + speed
          }
        }
        state.fill(0)
        state[0] = at
      },
      process({ out, song, audio }, p) {
        const outL = out.left,
          outR = out.right
        if (!audio || framesOf(audio) === 0) {
          stretch?.leave()
          fadeOut(out)
          return
        }
        const shift = Math.round(p.at.value / song.beatsPerFrame)
        const base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, sampleRate)
        setRegion(audio, song, p, shift, base)
        if (!song.playing) {
          stretch?.leave()
          fadeOut(out)
          return
        }
        const waited = state[6] > 0
        const [wasL, wasR] = [state[4], state[5]]
        if (p.play.value === STRETCH) playStretched(out, song, audio, p, shift, base)
        else play(out, song, p, shift, base)
        if (song.stop >= 0) stopAt(out, song.stop)
        if (region.isMissing) {
          // what is only partly there is not heard: it ends softly, and begins softly when it has come
          state[4] = wasL
          state[5] = wasR
          stretch?.leave()
          fadeOut(out)
          state[6] = 1
        } else if (waited) {
          for (let i = 0; i < BLOCK; i++) {
            const w = (i + 1) / BLOCK
            outL[i] *= w
            outR[i] *= w
          }
          state[6] = 0
        }
      },
    }
  },
})

/** Frames of the sound that pass in one of the song, before tuning. */
const speedOf = (play: number, tempo: number, beatsPerFrame: number, sampleRate: number): number =>
  play === AS_IS ? 1 : (beatsPerFrame * sampleRate * 60) / tempo
const tuned = (semitones: number): number => (semitones === 0 ? 1 : exp2(semitones / 12))
