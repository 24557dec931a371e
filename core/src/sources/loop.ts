import { hitPieces, knownHits } from '../dsp/hits'
import { exp2 } from '../dsp/math'
import { LoopRegion } from '../dsp/loop-region'
import { LoopStretch } from './loop-stretch'
import { BLOCK } from '../contract/block'
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

/**
 * An audio loop that plays against the song position: as it is, at the song's tempo by varispeed (speed and pitch together), or
 * stretched to it with its pitch kept. It reads between samples by 8-tap windowed sinc, and sample for sample where speed is 1. A jump
 * in the song leaves no click: what the wave was about to do fades into what it does now.
 */
export const loopSource = defineSource({
  id: 'loop',
  name: 'Audio loop',
  tip: 'A looped sound, as it is or at the song’s tempo',
  audio: true,
  onSong: true,
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
    at: amount('At beat', { min: 0, max: 4096, default: 0, glide: 0, tip: 'Beat of the song at which it begins; it is silent before' }),
    loopFrom: percent('Loop from', {
      default: 0,
      tip: 'Where it goes back to from the end; before the start, it goes back to the start',
      edit: 'exchanged',
    }),
    reverse: toggle('Reverse', false, 'Plays backwards'),
    tune: semitones('Tune', { min: -24, max: 24, default: 0, tip: 'Speed and pitch together; stretched, pitch alone' }),
    hits: toggle('Keep hits', true, 'Stretched: hits sound as they were recorded, each at its own time'),
    fadeIn: seconds('Fade in', { min: 0, max: 2, default: 0, tip: 'At the beginning of each round' }),
    fadeOut: seconds('Fade out', { min: 0, max: 2, default: 0, tip: 'At the end of each round' }),
    level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
  },
  summary: (is) => (is.bars > 0 ? `loop · ${Math.round(is.bars * 10) / 10} bars` : 'loop'),
  // hits of what is longer than a loop are not kept
  *prepare(audio) {
    if (audio && audio.channels[0]?.length <= LONGEST * audio.sampleRate) yield* hitPieces(audio)
  },
  create: ({ sampleRate }) => {
    // reading place in frames after the start, frames left of the declick, its offsets, last samples
    const state = new Float64Array([NOWHERE, 0, 0, 0, 0, 0])
    const region = new LoopRegion()
    const pair = new Float64Array(2)
    let stretch: LoopStretch | null = null
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
          for (let i = 0; i < BLOCK; i++) {
            if (!still) speed = base * exp2(tunes[i] / 12)
            at = at === NOWHERE || i === song.jump ? (song.frames[i] - shift) * speed : at + speed
          }
        }
        state.fill(0)
        state[0] = at
      },
      process({ out, song, audio }, p) {
        let at = state[0],
          declick = state[1],
          jumpL = state[2],
          jumpR = state[3],
          lastL = state[4],
          lastR = state[5]
        const outL = out.left,
          outR = out.right
        if (!audio || audio.channels.length === 0 || audio.channels[0].length === 0 || !song.playing) {
          stretch?.leave()
          // fades out from wherever it was
          for (let i = 0; i < BLOCK; i++) {
            lastL *= 0.97
            lastR *= 0.97
            outL[i] = lastL
            outR[i] = lastR
          }
          const silent = Math.abs(lastL) + Math.abs(lastR) < 1e-7
          state[0] = NOWHERE
          state[4] = silent ? 0 : lastL
          state[5] = silent ? 0 : lastR
          return
        }
        const reversed = p.reverse.value >= 0.5
        region.set(
          audio.channels,
          p.start.value,
          p.loopFrom.value,
          p.end.value,
          reversed,
          p.fadeIn.value * sampleRate,
          p.fadeOut.value * sampleRate,
          p.at.value > 0,
        )
        const shift = Math.round(p.at.value / song.beatsPerFrame)
        const base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, sampleRate)
        const levels = p.level.values()
        if (p.play.value === STRETCH) {
          stretch ??= new LoopStretch(sampleRate)
          const hits = p.hits.value >= 0.5 && !reversed ? knownHits(audio) : null
          stretch.process(out, song, region, base, p.tune.value, hits && hits.at, shift)
          for (let i = 0; i < BLOCK; i++) {
            outL[i] *= levels[i]
            outR[i] *= levels[i]
          }
          state.fill(0)
          state[0] = (song.frames[BLOCK - 1] - shift) * base
          state[4] = outL[BLOCK - 1]
          state[5] = outR[BLOCK - 1]
          return
        }
        stretch?.leave()
        const still = p.tune.constant
        const tunes = p.tune.values()
        let speed = still ? base * tuned(p.tune.value) : base
        const exact = still && speed === 1
        // nearly always: sample for sample at one level, with no jump near
        if (exact && at >= 0 && declick === 0 && song.jump < 0 && p.level.constant && region.isPlain) {
          const g = levels[0]
          const { from, length } = region
          const left = audio.channels[0]
          const right = audio.channels.length > 1 ? audio.channels[1] : left
          for (let i = 0; i < BLOCK;) {
            const next = at + 1
            const first = Math.floor(next - Math.floor(next / length) * length)
            const end = Math.min(BLOCK, i + length - first)
            copyAt(left, from + first, outL, i, end, g)
            copyAt(right, from + first, outR, i, end, g)
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
          region.read(exact ? Math.floor(at) : at, pair)
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
      },
    }
  },
})

/** Frames of the sound that pass in one of the song, before tuning. */
const speedOf = (play: number, tempo: number, beatsPerFrame: number, sampleRate: number): number =>
  play === AS_IS ? 1 : (beatsPerFrame * sampleRate * 60) / tempo
const tuned = (semitones: number): number => (semitones === 0 ? 1 : exp2(semitones / 12))

/** Sound from `at` on, times a gain, into frames `i` to `end`; silence behind its end. */
function copyAt(sound: Float32Array, at: number, out: Float32Array, i: number, end: number, gain: number): void {
  const known = Math.min(end, i + Math.max(0, sound.length - at))
  for (let j = at; i < known; i++, j++) out[i] = sound[j] * gain
  if (i < end) out.fill(0, i, end)
}
