import { exp2 } from '../dsp/math'
import { SINC_PHASES, SINC_TAPS, sincTable } from '../dsp/sinc-table'
import { BLOCK } from '../contract/block'
import { choice, gain, tempo, percent, semitones } from '../units/parameter'
import { defineSource } from '../contract/source'

/** Frames over which a jump of the reading place is smoothed. */
const SMOOTHED = 96

/**
 * An audio loop that plays against the song position: as it is, or at the song's tempo by varispeed (speed and pitch
 * together). It reads between samples by 8-tap windowed sinc, and sample for sample where speed is 1. A jump in the
 * song leaves no click: what the wave was about to do fades into what it does now.
 */
export const loopSource = defineSource({
  id: 'loop',
  name: 'Audio loop',
  tip: 'A looped sound, as it is or at the song’s tempo',
  audio: true,
  params: {
    play: choice('Play', ['as is', 'varispeed'], 0, 'As recorded, or sped up or slowed down to the song’s tempo'),
    tempo: tempo('Tempo', 96, 'Tempo of the recording, in bpm'),
    start: percent('Start', { default: 0, tip: 'Where the loop begins', edit: 'exchanged' }),
    end: percent('End', { default: 1, tip: 'Where the loop ends', edit: 'exchanged' }),
    tune: semitones('Tune', { min: -24, max: 24, default: 0, tip: 'Speed and pitch together, in semitones' }),
    level: gain('Level', { min: -72, max: 24, default: 0, tip: 'Level before the chain' }),
  },
  summary: (is) => (is.bars > 0 ? `loop · ${Math.round(is.bars * 10) / 10} bars` : 'loop'),
  create: ({ sampleRate }) => {
    // reading place, frames left of the declick, its offsets, last samples
    const state = new Float64Array([-1, 0, 0, 0, 0, 0])
    return {
      reset() {
        state.fill(0)
        state[0] = -1
      },
      skip({ song, audio }, p) {
        let at = state[0]
        const base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, sampleRate)
        const still = p.tune.constant
        const tunes = p.tune.values()
        let speed = still ? base * tuned(p.tune.value) : base
        if (!audio || !song.playing) at = -1
        else {
          for (let i = 0; i < BLOCK; i++) {
            if (!still) speed = base * exp2(tunes[i] / 12)
            at = at < 0 || i === song.jump ? song.frames[i] * speed : at + speed
          }
        }
        state.fill(0)
        state[0] = at
      },
      process({ out, song, audio }, p) {
        let at = state[0], declick = state[1], jumpL = state[2], jumpR = state[3], lastL = state[4], lastR = state[5]
        const outL = out.left, outR = out.right
        const left = audio?.channels[0]
        if (!audio || !left || left.length === 0 || !song.playing) {
          // fades out from wherever it was
          for (let i = 0; i < BLOCK; i++) {
            lastL *= 0.97
            lastR *= 0.97
            outL[i] = lastL
            outR[i] = lastR
          }
          const silent = Math.abs(lastL) + Math.abs(lastR) < 1e-7
          state[0] = -1
          state[4] = silent ? 0 : lastL
          state[5] = silent ? 0 : lastR
          return
        }
        const right = audio.channels[1] ?? left
        const whole = left.length
        const from = Math.floor(Math.min(p.start.value, 0.999) * whole)
        const length = Math.max(64, Math.floor(p.end.value * whole) - from)
        const base = speedOf(p.play.value, p.tempo.value, song.beatsPerFrame, sampleRate)
        const still = p.tune.constant
        const tunes = p.tune.values()
        let speed = still ? base * tuned(p.tune.value) : base
        const levels = p.level.values()
        const exact = still && speed === 1
        // nearly always: sample for sample at one level, with no jump near
        if (exact && at >= 0 && declick === 0 && song.jump < 0 && p.level.constant) {
          const g = levels[0]
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
          const jumped = at >= 0 && i === song.jump
          if (at < 0 || jumped) at = song.frames[i] * speed
          else at += speed
          const place = at - Math.floor(at / length) * length
          let l: number
          let r: number
          if (exact) {
            const j = from + Math.floor(place)
            l = j < whole ? left[j] : 0
            r = j < whole ? right[j] : 0
          } else {
            const n = Math.floor(place)
            const row = ((place - n) * SINC_PHASES + 0.5 | 0) * SINC_TAPS
            l = r = 0
            for (let k = 0; k < SINC_TAPS; k++) {
              let j = n + k - 3
              j = from + (j < 0 ? j + length : j >= length ? j - length : j)
              if (j < whole) {
                l += sincTable[row + k] * left[j]
                r += sincTable[row + k] * right[j]
              }
            }
          }
          const g = levels[i]
          l *= g
          r *= g
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

const AS_IS = 0
/** Frames of the sound that pass in one of the song, before tuning. */
const speedOf = (play: number, tempo: number, beatsPerFrame: number, sampleRate: number): number => (play === AS_IS ? 1 : beatsPerFrame * sampleRate * 60 / tempo)
const tuned = (semitones: number): number => (semitones === 0 ? 1 : exp2(semitones / 12))

/** Sound from `at` on, times a gain, into frames `i` to `end`; silence behind its end. */
function copyAt(sound: Float32Array, at: number, out: Float32Array, i: number, end: number, gain: number): void {
  const known = Math.min(end, i + Math.max(0, sound.length - at))
  for (let j = at; i < known; i++, j++) out[i] = sound[j] * gain
  if (i < end) out.fill(0, i, end)
}
