import { exp2, log2, poleFor, sinCycles } from '../dsp/math'
import { Random } from '../dsp/random'
import { impulseTrain, plainWave, preparePlainWaves } from '../dsp/plain-wave'
import { BLOCK } from '../contract/block'
import { beats, choice, gain, hertz, percent } from '../units/parameter'
import { defineSource } from '../contract/source'

export const toneWaves = [
  'sine',
  'triangle',
  'saw',
  'pulse',
  'white noise',
  'pink noise',
  'noise bursts',
  'single pulse',
  'sweep',
  'impulse train',
  'two tones',
  'stepped sweep',
  'multitone',
] as const

/** Tones of a multitone, a third and more apart, and none a harmonic of another. */
const MULTI = [43, 79, 151, 293, 577, 1129, 2213, 4337, 8501, 15_877] as const
/** Scale of pink noise: it comes to its peak level once in some minutes, and is held there. */
const PINK = 0.125
/** Thirds of an octave from 20 Hz to 20 kHz. */
const STEPS = 31

/**
 * Test signals. Triangle, saw and pulse have the band-limited edges of all plain waves; sine and noise need
 * none. Pink noise: three-pole filter of white noise (−3 dB/oct within 0.5 dB from 40 Hz to 20 kHz). Noise
 * bursts and pulses come every so many beats; the sweep runs over the audible range in eight of these,
 * exponentially (Farina 2000), or in steps of a third of an octave. A multitone has its phases spread so that
 * its peaks stay low (Schroeder 1970).
 */
export const toneSource = defineSource({
  id: 'tone',
  name: 'Tone',
  tip: 'Plays test signals: waveforms, noise, bursts, a pulse or a sweep',
  begins: {
    label: 'Test signals',
    tip: 'Waveforms, noise, bursts, a pulse or a sweep',
    track: 'Tone',
  },
  params: {
    wave: choice('Wave', toneWaves, 0, 'Type of signal'),
    frequency: hertz('Frequency', { min: 20, max: 20_000, default: 220, tip: 'Frequency of the waveforms' }),
    second: hertz('Second', { min: 20, max: 20_000, default: 277, tip: 'Frequency of the second tone' }),
    every: beats('Every', {
      min: 1 / 16,
      max: 64,
      default: 1,
      tip: 'Time between bursts, pulses or sweeps',
    }),
    width: percent('Width', { min: 0.02, max: 0.98, default: 0.5, tip: 'Duty cycle of the pulse' }),
    level: gain('Level', { min: -72, max: 0, default: -12, tip: 'Peak level' }),
  },
  load: { kB: 40, ns: 120 },
  *prepare() {
    preparePlainWaves()
  },
  pitch: (value) => (value('wave') < 4 ? value('frequency') : null),
  unseen: 'test signal',
  summary: (is) => `tone · ${is.text('wave')}`,
  create: ({ sampleRate, seed }) => {
    const noise = new Random(seed)
    const fade = 1 - poleFor(0.003, sampleRate)
    // phase, phase of the sweep, three poles of pink noise, how far open, phase of the second tone
    const state = new Float64Array(7)
    const phases = new Float64Array(MULTI.length)
    return {
      reset() {
        noise.reset()
        state.fill(0)
        for (let k = 0; k < phases.length; k++) phases[k] = (k * k) / (2 * phases.length)
      },
      process({ out, song }, p) {
        let phase = state[0],
          swept = state[1],
          b0 = state[2],
          b1 = state[3],
          b2 = state[4],
          open = state[5],
          second = state[6]
        const wave = p.wave.value
        const levels = p.level.values()
        const f = p.frequency.values()
        const widths = p.width.values()
        const seconds = p.second.values()
        const every = p.every.value
        const wanted = song.playing ? 1 : 0
        // starts at once (a pulse must be whole), but stops softly
        if (wanted === 1) open = 1
        for (let i = 0; i < BLOCK; i++) {
          const step = f[i] / sampleRate
          const beat = song.beats[i]
          let y = 0
          if (wave <= 3) {
            y = plainWave(wave, phase, step, widths[i])
          } else if (wave <= 6) {
            const white = noise.bipolar()
            if (wave === 4) y = white
            else if (wave === 5) {
              b0 = 0.99765 * b0 + white * 0.099046
              b1 = 0.963 * b1 + white * 0.2965164
              b2 = 0.57 * b2 + white * 1.0526913
              y = PINK * (b0 + b1 + b2 + white * 0.1848)
              if (y > 1) y = 1
              else if (y < -1) y = -1
            } else {
              // bursts that begin at once and die away within a beat
              const x = beat - Math.floor(beat / every) * every
              y = white * exp2(-x * 24)
            }
          } else if (wave === 7) {
            const before = beat - song.beatsPerFrame
            y = Math.floor(beat / every) !== Math.floor(before / every) || song.frames[i] === 0 ? 1 : 0
          } else if (wave === 9) y = impulseTrain(phase, step)
          else if (wave === 10) {
            y = 0.5 * (sinCycles(phase) + sinCycles(second))
            second += seconds[i] / sampleRate
            if (second >= 1) second -= 1
          } else if (wave === 11) {
            const n = Math.floor(beat / every + 1e-9)
            swept += (20 * exp2((n - Math.floor(n / STEPS) * STEPS) / 3)) / sampleRate
            if (swept >= 1) swept -= Math.floor(swept)
            y = sinCycles(swept)
          } else if (wave === 12) {
            for (let k = 0; k < MULTI.length; k++) {
              y += sinCycles(phases[k]) / MULTI.length
              phases[k] += MULTI[k] / sampleRate
              if (phases[k] >= 1) phases[k] -= 1
            }
          } else {
            const whole = 8 * every
            const x = beat / whole - Math.floor(beat / whole)
            const fSweep = 20 * exp2(x * log2(1000))
            swept += fSweep / sampleRate
            if (swept >= 1) swept -= Math.floor(swept)
            y = sinCycles(swept)
          }
          phase += step
          if (phase >= 1) phase -= Math.floor(phase)
          if (wanted === 0 || (song.stop >= 0 && i >= song.stop)) open -= fade * open
          const v = y * levels[i] * open
          out.left[i] = v
          out.right[i] = v
        }
        state[0] = phase
        state[1] = swept
        state[2] = b0
        state[3] = b1
        state[4] = b2
        state[6] = second
        state[5] = wanted === 0 && open < 1e-7 ? 0 : open
      },
    }
  },
})
